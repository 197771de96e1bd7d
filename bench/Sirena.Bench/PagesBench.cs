using System.Diagnostics;
using System.Net;
using Sirena.Shots;

namespace Sirena.Bench;

/// <summary>The Orders and Proof pages at 200,000 orders and 1,000,000 deliveries: server time as a client on the same machine sees it.</summary>
public static class PagesBench
{
    private static readonly string[] Paths =
    [
        "/orders",
        "/orders?status=picking",
        "/orders?due=tomorrow&risk=medium",
        "/orders?q=corvane",
        "/orders?status=signed-for",
        "/orders?site=galley",
        "/proof",
        "/proof?period=7",
        "/proof?period=30&state=failed",
        "/proof?period=30&find=Ines+Calder",
        "/proof?period=30&channel=mail",
    ];

    /// <summary>Measures; the median of three runs each.</summary>
    public static async Task<IReadOnlyList<Figure>> RunAsync(string server, Action<string> say)
    {
        await using var world = await World.MakeAsync(server, days: 0, aDay: 0);
        say("filling 200,000 orders and 1,000,000 deliveries");
        await FillAsync(world);

        // What autovacuum does in a database that grows by itself.
        await world.ExecuteAsync("vacuum (analyze)");
        await world.ExecuteAsync("checkpoint");
        using var http = await SignInAsync(world);
        var runs = new Dictionary<string, double[]> { ["/orders"] = new double[3], ["/proof"] = new double[3] };
        foreach (var path in Paths)
        {
            await http.GetStringAsync(world.Url + path);
            await http.GetStringAsync(world.Url + path);
            var begin = Stopwatch.GetTimestamp();
            await http.GetStringAsync(world.Url + path);
            say($"  {path}: {Stopwatch.GetElapsedTime(begin).TotalMilliseconds:0} ms");
        }

        for (var run = 0; run < 3; run++)
        {
            say($"pages, run {run + 1} of 3");
            foreach (var page in runs.Keys)
            {
                var times = new List<double>();
                for (var i = 0; i < 120; i++)
                {
                    var path = Paths
                        .Where(p => p.StartsWith(page, StringComparison.Ordinal))
                        .ElementAt(i % Paths.Count(p => p.StartsWith(page, StringComparison.Ordinal)));
                    var begin = Stopwatch.GetTimestamp();
                    await http.GetByteArrayAsync(world.Url + path);
                    times.Add(Stopwatch.GetElapsedTime(begin).TotalMilliseconds);
                }

                runs[page][run] = Figure.At(times, .95);
            }
        }

        return
        [
            new Figure("Orders page, p95", Figure.Median(runs["/orders"]), "ms", 60),
            new Figure("Proof page, p95", Figure.Median(runs["/proof"]), "ms", 60),
        ];
    }

    /// <summary>
    /// Each page of a supervisor with 1,000 people, 50 teams and 500 rules: the median of nine, each after a first one that nobody counts. One figure for the
    /// slowest.
    /// </summary>
    public static async Task<IReadOnlyList<Figure>> CrowdAsync(string server, Action<string> say)
    {
        await using var world = await World.MakeAsync(server, days: 2, aDay: 40);
        say("adding 1,000 people in 50 teams and 500 rules");
        using var api = new HttpClient { BaseAddress = new Uri(world.Url), Timeout = TimeSpan.FromMinutes(10) };
        api.DefaultRequestHeaders.Authorization = new System.Net.Http.Headers.AuthenticationHeaderValue("Bearer", world.Demo.Token);
        var people = string.Join(
            '\n',
            Enumerable
                .Range(0, 1000)
                .Select(n =>
                    $$"""{"id":"crew-{{n}}","name":"Crew {{n:0000}} Ólsen","post":"hand","teams":["crew-team-{{n % 50}}"],"contacts":[{"channel":"mail","address":"crew-{{n}}@averilquay.example"},{"channel":"sms","address":"+4477009{{n:00000}}"}]}"""
                )
        );
        (await api.PutAsync("/api/people", new StringContent(people, System.Text.Encoding.UTF8, "application/jsonl"))).EnsureSuccessStatusCode();
        for (var n = 0; n < 500; n++)
        {
            var rule =
                $$"""{"name":"Rule {{n:000}} of the crowd","when":["order.placed"],"urgency":"prompt","onlyIf":{"field":"order.total","is":"at-least","value":{{n * 1000}} },"tell":[{"team":"crew-team-{{n % 50}}"},{"person":"crew-{{n * 2}}"}],"by":{"allAtOnce":["screen","mail"]},"ladder":[{"after":"PT10M","tell":[{"team":"crew-team-{{(n + 1) % 50}}"}]}]}""";
            (await api.PutAsync($"/api/rules/crowd-{n}", new StringContent(rule, System.Text.Encoding.UTF8, "application/json"))).EnsureSuccessStatusCode();
        }

        using var http = await SignInAsync(world);
        string[] pages =
        [
            "/watch",
            "/mine",
            "/orders",
            "/rules",
            "/rules/crowd-250",
            "/rules/new",
            "/people",
            "/people?q=crew+0500",
            "/people/crew-500",
            "/people/rota?team=crew-team-7",
            "/people/teams",
            "/people/who?rule=crowd-250",
            "/people/coverage",
            "/people/notices",
            "/pauses",
            "/sources",
            "/channels",
            "/wording",
            "/proof",
            "/settings",
            "/settings/users",
            "/first-day",
        ];
        var slowest = ("", 0.0);
        foreach (var page in pages)
        {
            (await http.GetAsync(world.Url + page)).EnsureSuccessStatusCode();
            var times = new double[9];
            var size = 0;
            for (var i = 0; i < times.Length; i++)
            {
                var begin = Stopwatch.GetTimestamp();
                size = (await http.GetByteArrayAsync(world.Url + page)).Length;
                times[i] = Stopwatch.GetElapsedTime(begin).TotalMilliseconds;
            }

            var median = Figure.Median(times);
            say($"  {page}: {median:0} ms, {size / 1024} kB");
            slowest = median > slowest.Item2 ? (page, median) : slowest;
        }

        return [new Figure($"Slowest page with 1,000 people, 50 teams, 500 rules ({slowest.Item1}), median", slowest.Item2, "ms", 150)];
    }

    internal static async Task<HttpClient> SignInAsync(World world)
    {
        var http = new HttpClient(new HttpClientHandler { CookieContainer = new CookieContainer() });
        var form = await http.GetStringAsync(world.Url + "/sign-in");
        var token = World.FormToken(form);
        (
            await http.PostAsync(
                world.Url + "/sign-in",
                new FormUrlEncodedContent([
                    new("Email", world.Demo.Users[0].Email),
                    new("Password", world.Demo.Users[0].Password),
                    new("__RequestVerificationToken", token),
                ])
            )
        ).EnsureSuccessStatusCode();
        return http;
    }

    private static Task FillAsync(World world) =>
        world.ExecuteAsync(
            """
            insert into orders (number, document, times, seq, status, open, customer, due_at, total, currency, risk, risk_score, sites, salesperson, changed_at, search)
            select 'AQ-' || n, json_build_object('number', 'AQ-' || n, 'lines', '[]'::json, 'extra', json_build_object('berth', 'N' || (n % 9))), '{}', 5, s.status, s.open, v.name, now() + (n % 2000 - case when s.open then 60 else 40000 end) * interval '1 minute', (n % 9000) + 0.5, 'EUR',
                case when n % 40 = 0 then 2 when n % 97 = 0 then 3 else 1 end, n % 90, array[(array['galley','cold-store','chandlery'])[n % 3 + 1]], 'ines.calder', now() - (n % 40000) * interval '1 minute', lower('aq-' || n || ' ' || v.name || ' n' || (n % 9))
            from generate_series(1, 200000) n
            cross join lateral (select (array['MV Corvane','MV Ostrel','SY Little Auk','RV Solstice Bay','MV Saltmarsh','MY Quillon','MV Hesper Light'])[n % 7 + 1] as name) v
            cross join lateral (select case when n % 50 = 0 then (array['received','credit-check','picking','in-galley','loaded','alongside'])[n / 50 % 6 + 1] when n % 33 = 0 then 'cancelled' else 'signed-for' end as status, n % 50 = 0 as open) s;
            insert into events (event_id, source, type, subject, order_number, seq, time, received, late, from_the_future, data, decided_at, tries, book) values ('bulk', '/bulk', 'order.held', 'AQ-1', 'AQ-1', 1, now(), now(), false, false, '{}', now(), 0, 1);
            insert into alerts (id, event_id, order_number, subject, rule_id, version, "case", urgency, state, raised_at, began_at, ended_at, taken_by, reaches_somebody)
            select md5('a' || n)::uuid, (select max(id) from events), 'AQ-' || n, 'AQ-' || n, (array['held-for-credit','alongside','risky-order'])[n % 3 + 1], 1, 'always', 'prompt', case when n % 400 = 0 then 'open' else 'done' end, now() - (n * 13) * interval '1 second', now() - (n * 13) * interval '1 second', now(), 'ines.calder', true
            from generate_series(1, 200000) n;
            insert into deliveries (id, alert_id, order_number, rule_id, step, person, channel, "to", state, evidence, reason, created_at, due_at, deadline, handed_over_at, landed_at, answered, tries)
            select md5('d' || n)::uuid, md5('a' || (n % 200000 + 1))::uuid, 'AQ-' || (n % 200000 + 1), 'held-for-credit', 0, p.person, 'mail', p.person || '@averilquay.example', s.state, '2.0.0 Taken', case when s.state = 'failed' then '5.1.1 The mailbox does not exist' end,
                now() - (n * 2.6) * interval '1 second', now(), now(), now(), case when s.state = 'landed' then now() - (n * 2.6 - 4) * interval '1 second' end, n % 5 = 0 and s.state = 'landed', 1
            from generate_series(1, 1000000) n
            cross join lateral (select (array['ines.calder','odile.varga','farah.mensah','tomas.reyle','maren.holt'])[n % 5 + 1] as person) p
            cross join lateral (select case when n % 60 = 0 then 'failed' when n % 9 = 0 then 'handed-over' else 'landed' end as state) s;
            """
        );
}
