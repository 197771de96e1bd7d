using NodaTime;
using OpenQA.Selenium;
using Sirena.Shots;

// Sirena.Shots FOLDER [PATH NAME]...: the pictures of the main views from the demo data, on a fixed day; or only the given paths.
var server = Environment.GetEnvironmentVariable("SIRENA_TEST_SERVER")
    ?? throw new InvalidOperationException("SIRENA_TEST_SERVER is not set; run './sirena shots'.");
var folder = Directory.CreateDirectory(args.FirstOrDefault() ?? "docs/screenshots").FullName;
await using var world = await World.MakeAsync(server, days: 30, aDay: 110, at: Instant.FromUtc(2026, 11, 24, 14, 32, 8));
await world.ExecuteAsync(
    "update deliveries set state = 'waiting', reason = 'not now: 4.7.1 Greylisted, come back later', due_at = '2026-11-24T14:33:10Z', landed_at = null, handed_over_at = null where id in (select id from deliveries where not answered order by created_at desc limit 2)"
);
using var browser = Browser.Start(
    int.TryParse(Environment.GetEnvironmentVariable("SIRENA_SHOTS_WIDTH"), out var width) ? width : 1280,
    width is 0 or > 500 ? 800 : 844
);
var maren = world.Demo.Users[0];
browser.SignIn(world.Url, maren.Email, maren.Password);
if (args.Length > 1)
{
    foreach (var pair in args.Skip(1).Chunk(2))
    {
        Shoot(pair[0], pair[1]);
    }

    return;
}

Shoot("/watch", "watch");
Shoot("/orders", "orders");
browser.Navigate().GoToUrl(world.Url + "/orders?risk=high");
var number = browser.FindElements(By.CssSelector("td a.id")).FirstOrDefault()?.Text;

// What was asked for that order: nothing goes out on a fixed day, so it is written here as it would have come out.
await world.ExecuteAsync(
    $$"""
    insert into instructions (id, seq, order_number, source, lane, kind, "with", state, by, person, rule_id, rule_version, depth, urgency, because, trial, asked_at, order_seq, due_at, deadline, sight, patience, tries, may_be_twice, taken_at, seen_at, seen_event, words, handed)
    select gen_random_uuid(), nextval('instruction_seq'), '{{number}}', 'ledger', 'order {{number}}', x.kind, x.members::json, x.state, x.by, x.person, x.rule, x.version, 0, 'prompt', x.because, false, x.at::timestamptz, 1, x.at::timestamptz, x.at::timestamptz, interval '5 minutes', interval '15 minutes', 1, false,
        x.at::timestamptz + interval '1 second', case when x.state = 'seen' then x.at::timestamptz + interval '6 seconds' end, case when x.state = 'seen' then 1 end, x.words, true
    from (values
        ('note', '{"text":"ice on the quay, bring the barrow"}', 'taken', 'Maren Holt', 'maren.holt', null, null::int, null, '2026-11-24T14:31:58Z', 'accepted, 88417'),
        ('hold', '{"reason":"risk score 88"}', 'seen', 'rule Hold what is too risky', null, 'hold-risky', 1, 'Flagged risky, always', '2026-11-24T14:05:12Z', 'accepted, 88390')) x (kind, members, state, by, person, rule, version, because, at, words)
    order by x.at
    """
);
Shoot($"/orders/{number}", "order");
Shoot("/rules", "rules");
Shoot("/rules/risky-order", "rule");
browser.Navigate().GoToUrl(world.Url + "/rules/placed-close-to-sailing");
var limit = browser.FindElement(By.CssSelector(".ed input.v"));
limit.Clear();
limit.SendKeys("3 h");
browser.FindElement(By.CssSelector("button[value=rehearse]")).Click();
Take("rehearsal");
Shoot("/orders/statuses?id=in-galley", "statuses");
Shoot("/channels?id=phone", "channels");
await SourceShots.BodiesAsync(world);
Shoot("/sources?id=ledger", "sources");
Shoot("/sources/ledger/reading", "reading");
Light("night");
Shoot("/proof", "proof");
Light("day");
Shoot("/people", "people");
Shoot("/people/rota?team=credit-control", "rota");
Shoot("/people/who?rule=held-for-credit&at=2026-11-27T10:00", "who-would-be-told");
Shoot("/people/coverage?of=rule:held-for-credit", "coverage");
Shoot("/wording?id=order-held&tab=sms", "wording");
browser.Navigate().GoToUrl(world.Url + "/people/notices");
browser.FindElement(By.Id("headline")).SendKeys("Berths 4 to 7 closed from 15:00 to 15:40");
browser.FindElement(By.Id("text")).SendKeys("The fuel barge lies across berths 4 to 7. Bring goods over the north ramp, be clear by 16:00.");
Press("#n-t0 option[value='duty:quayside-drivers']");
await Task.Delay(900);
browser.FindElement(By.Id("n-tadd")).Click();
await Task.Delay(900);
Press("#n-t1 option[value='team:kitchen']");
await Task.Delay(900);
Take("notice");

// Staff's own pages on a phone. Nothing is sent on a fixed day, so the link to the newest open alert of the kitchen's is made here.
const string key = "AAAAAAAAAAAAAAAAAAAAAA";
await world.ExecuteAsync(
    $"insert into answer_links (hash, alert_id, delivery_id, person, contact, code, expires_at) select decode('{Convert.ToHexString(Sirena.Storage.Access.Secrets.Hash(key))}', 'hex'), d.alert_id, d.id, d.person, d.\"to\", '4821', '2026-11-27' from deliveries d join alerts a on a.id = d.alert_id join messages m on m.delivery_id = d.id where a.state = 'open' and d.person = 'tomas.reyle' and d.channel = 'mail' order by a.raised_at desc limit 1"
);
Browser.Fit(browser, 390, 844, phone: true);
Shoot("/a/" + key, "answer");
browser.ExecuteCdpCommand("Network.clearBrowserCookies", []);
browser.SignIn(world.Url, world.Demo.Users[2].Email, world.Demo.Users[2].Password);
Shoot("/mine", "mine");

// A path may go on with ' >> ' and what to press on the page, by its selector.
void Shoot(string path, string name)
{
    var steps = path.Split(" >> ");
    browser.Navigate().GoToUrl(world.Url + steps[0]);
    foreach (var step in steps.Skip(1))
    {
        Press(step);
        Thread.Sleep(900);
    }

    Take(name);
}

void Press(string selector) =>
    ((IJavaScriptExecutor)browser).ExecuteScript(
        "const e = document.querySelector(arguments[0]); e.scrollIntoView({block:'center'}); if (e.tagName === 'OPTION') { e.selected = true; e.closest('select').dispatchEvent(new Event('change', { bubbles: true })); } else e.click();",
        selector
    );

void Light(string light) => ((IJavaScriptExecutor)browser).ExecuteScript("document.cookie = `sirena-light=${arguments[0]}; path=/`", light);

void Take(string name)
{
    Thread.Sleep(250);
    ((ITakesScreenshot)browser).GetScreenshot().SaveAsFile(Path.Combine(folder, name + ".png"));
    Console.WriteLine($"{name}.png");
}
