using System.Globalization;
using NodaTime;
using Sirena.Core.Deliveries;
using Sirena.Core.People;
using Sirena.Core.Sources;
using static Sirena.Core.Tests.Build;

namespace Sirena.Core.Tests;

/// <summary>
/// What the small readers of the edge make of many texts, kept as it was found good: lengths of time, numbers, addresses, headers, paths; and what gateways'
/// answers come to. The texts are drawn by a seed from parts that meet badly.
/// </summary>
public sealed class EdgeTextsSweepTests
{
    private static IEnumerable<string> Texts(int seed, int many, params string[][] parts)
    {
        var chance = new Random(seed);
        return Enumerable.Range(0, many).Select(_ => string.Concat(parts.Select(p => Any(chance, p)))).Distinct();
    }

    private static string Of(decimal? number) => number?.ToString(CultureInfo.InvariantCulture) ?? "-";

    [Fact]
    public void Lengths_of_time_are_read_and_said_as_they_were()
    {
        string[] numbers = ["0", "1", "1.5", "2", "48", "59", "60", "90", "5256000", "5256001", "87600"];
        string[] units = ["", " min", "m", " h", "hours", " d", "days", "w", " weeks", "s", "sec", " x", "month"];
        var worded = Texts(17, 260, ["", "", "-"], numbers, units, ["", "", " ", ", "], ["", "", .. numbers], units);
        var iso = Texts(
            18,
            160,
            ["", "", "-", "+", "--"],
            ["P", "P", "p", ""],
            ["", "2D", "1W", "1M", "1Y", "107000D"],
            ["", "T"],
            ["", "5M", "2H30M", "1.5S", "90S", "0S"]
        );
        var told = worded
            .Concat(iso)
            .Select(t =>
                $"'{t}': {Durations.Parse(t)?.Iso() ?? "-"} | {(Durations.ParseWords(t) is { } span ? $"{span.ExactWords()} | {span.InWords()} | {((Duration?)span).Took()}" : "-")}"
            )
            .Concat(
                new[] { 0.0, 0.04, 0.05, 59.94, 59.96, 60, 61, 3599, 3600, 3660, 86_399, 86_400, 172_799, 172_800, 200_000 }
                    .SelectMany(s => new[] { s, -s })
                    .Distinct()
                    .Select(s => Duration.FromSeconds(s))
                    .Select(s => $"{s.Iso()}: {s.ExactWords()} | {s.InWords()} | {(s < Duration.Zero ? "-" : ((Duration?)s).Took())}")
            )
            .Append($"nothing: {((Duration?)null).Took()}");
        Kept.Same("lengths", told);
    }

    [Fact]
    public void Numbers_are_read_as_they_were()
    {
        string[] marks = ["", "", ".", ",", " ", "\u00a0", "'", "\u2019", "..", ".,"];
        string[] digits = ["", "0", "7", "12", "284", "1000", "0284", "12345678901234", "x", "\u0663"];
        var told = Texts(
                19,
                420,
                ["", "", "", "-", "+", "\u2212", " "],
                ["1", "0", "12", "284", "1284", ""],
                marks,
                digits,
                ["", "", "", .. marks],
                ["", "", "", "", "50", "284"]
            )
            .Select(t =>
                $"'{t}': {Of(DecimalText.Read(t, '.'))} | {Of(DecimalText.Read(t, ','))} | {Of(DecimalText.Read(t, null))} | {Of(DecimalText.Typed(t))}"
            );
        Kept.Same("numbers", told);
    }

    [Fact]
    public void Addresses_and_headers_are_read_as_they_were()
    {
        string[] locals = ["ines", "a.b", ".a", "a.", "a..b", "", "o'brien", "joão", "a b", "a@b", new('a', 64), new('a', 65), new('ã', 33), "\"a\"", "a\\"];
        string[] domains =
        [
            "quay.example",
            "quay",
            "-a.example",
            "a-.example",
            "a..example",
            "",
            "ação.example",
            "xn--a.example",
            new string('d', 63) + ".example",
            new string('d', 64) + ".example",
            "4.example",
            "a_b.example",
            "a b.example",
            "quay.e",
        ];
        var mails = locals
            .Select(l => $"{l}@quay.example")
            .Concat(domains.Select(d => $"ines@{d}"))
            .Concat(Texts(20, 80, ["", "", " "], locals, ["@", "@", "@", "", "@@"], domains, ["", "", " ", "."]))
            .Select(t => $"'{t}': {(MailAddress.TryParse(t, out var mail, out var problem) ? $"is {mail}, of {MailAddress.DomainOf(mail.Value)}" : problem)}");
        string[] hosts = ["printer.quay.example", "192.0.2.7", "[2001:db8::7]", "2001:db8::7", "", "a b", "-", new('h', 201)];
        string[] ports = ["", "", ":9100", ":0", ":1", ":65535", ":65536", ":-1", ":x", ":", ": 80"];
        var printers = Texts(
                21,
                180,
                hosts,
                ports,
                ["", "", "?page=858", "?page=851", "?columns=32", "?", "?columns=19"],
                ["", "", "&columns=96", "&columns=97", "&columns=20", "&page=437", "&x=1", "&page"]
            )
            .Select(t => $"'{t}': {(PrinterAddress.TryParse(t, out var printer, out var problem) ? $"is {printer}" : problem)} | {HostAndPort.Read(t, 25)}");
        var headers = Texts(
                22,
                140,
                ["X-Desk", "Authorization", "Host", "te", "X Y", "", "Ünicode", "a|b~", new('n', 100), new('n', 101)],
                [": ", ":", "", " : "],
                ["", "Bearer a.b", "ação", "a\tb", "a\u0001b", "a\u007fb", "~!", new('v', 4_000), new('v', 4_001)]
            )
            .Select(t =>
            {
                var (all, problems) = RequestHeader.ReadLines($"{t}\nX-Other: 1\n\n");
                return $"{Quoting.Cut(t)} ({t.Length}): {string.Join(" | ", all.Select(h => $"{Quoting.Cut(h.Key)}={Quoting.Cut(h.Value)}: {RequestHeader.Problem(h.Key, h.Value) ?? "goes"}").Concat(problems))}";
            });
        Kept.Same("addresses", mails.Concat(printers).Concat(headers.Select(h => h.Replace("\u0001", "\\1", StringComparison.Ordinal))));
    }

    [Fact]
    public void Paths_are_read_written_and_followed_as_they_were()
    {
        var body = Element("""{"a":{"b":[1,{"c":[2,3]},[4]],"c":5},"b":[{"c":6},{"c":[7]},8],"":9,"a b":{"'":10},"0":11,"*":12,"é":[13]}""");
        string[] steps =
        [
            ".a",
            ".b",
            ".c",
            "['a']",
            "[\"b\"]",
            "[0]",
            "[1]",
            "[2]",
            "[9]",
            "[*]",
            ".*",
            "['a b']",
            "['\\'']",
            "['']",
            ".0",
            ".é",
            "['\\u0061']",
            "[1234567]",
            "['a'",
            "[a]",
            ".",
            "[-1]",
            "['\\u00'",
            "['\\n']",
            "[]",
        ];
        var told = Texts(23, 420, ["$", "$", "$", "$", "", "a"], [.. steps, ""], [.. steps, "", ""], [.. steps, "", "", ""])
            .Select(t =>
            {
                var (path, problem) = BodyPath.Parse(t);
                return path is null
                    ? $"{t}: {problem}"
                    : $"{t}: {path}{(path.IsMany ? " many" : "")}, last '{path.LastName}', first {path.FirstIn(body)}, all {string.Join(' ', path.In(body).Select(f => $"{f.At}={f.Value}"))}";
            });
        Kept.Same("paths", told.Select(t => t.Replace("\n", "\\n", StringComparison.Ordinal)));
    }

    [Fact]
    public void Whose_fault_a_refusal_is_stands_for_every_code_at_every_stage()
    {
        string[] enhanced =
        [
            "",
            "5.1.1 ",
            "5.1.3 ",
            "5.1.4 ",
            "5.1.6 ",
            "5.1.7 ",
            "5.1.10 ",
            "5.2.0 ",
            "5.2.1 ",
            "5.2.2 ",
            "5.2.3 ",
            "5.3.4 ",
            "5.4.1 ",
            "5.5.2 ",
            "5.6.0 ",
            "5.7.0 ",
            "5.7.1 ",
            "5.7.26 ",
            "4.2.2 ",
            "4.7.1 ",
            "2.0.0 ",
        ];
        var told =
            from stage in Enum.GetValues<MailStage>()
            from code in new[] { 399, 400, 421, 450, 451, 452, 499, 500, 501, 504, 530, 534, 535, 538, 550, 551, 552, 553, 554 }
            from words in new[] { "no", "too big for this box" }
            select $"{stage} {code} {words}: "
                + string.Join(
                    ", ",
                    enhanced
                        .Select(e => new MailRefusal(stage, code, e + words))
                        .Select(r => $"{r.Enhanced ?? "none"} {r.Whose(true)}{(r.Whose(true) == r.Whose(false) ? "" : $"/{r.Whose(false)}")}")
                        .Distinct()
                );
        Kept.Same("blame", told);
    }

    [Fact]
    public void What_is_known_of_a_gateway_after_many_histories_is_what_it_was()
    {
        var chance = new Random(24);
        Guid[] messages = [.. Enumerable.Range(1, 5).Select(n => new Guid(n, 0, 0, new byte[8]))];
        var told = new List<string>();
        for (var history = 1; history <= 80; history++)
        {
            var (health, now) = (GatewayHealth.New, Noon);
            string At(Instant? at) =>
                at is not { } i ? "-"
                : i < Noon ? "before"
                : $"{(i - Noon).TotalSeconds}";
            for (var step = 0; step < 12; step++)
            {
                now += Duration.FromSeconds(Any(chance, 0, 1, 4, 5, 20, 59, 60, 300));
                var (message, kind) = (Any(chance, messages), chance.Next(11));
                var before = health;
                health = kind switch
                {
                    0 or 1 => health.Tried(now) ?? health,
                    2 when chance.Next(3) == 0 => health.Changed(),
                    3 => health.After(
                        message,
                        "a@b",
                        new HandOver(AttemptOutcome.Temporary, "451", "wait") { RetryAfter = Duration.FromHours(Any(chance, 1, 23, 24, 30)) },
                        now
                    ),
                    _ => health.After(
                        message,
                        Any(chance, "a@b", "A@B", "c@d", "e@f"),
                        new HandOver(
                            Any(chance, AttemptOutcome.Accepted, AttemptOutcome.Temporary, AttemptOutcome.Unknown, AttemptOutcome.Temporary),
                            "450",
                            $"word {step}"
                        )
                        {
                            Blame = Any(
                                chance,
                                Blame.None,
                                Blame.Address,
                                Blame.Address,
                                Blame.Mailbox,
                                Blame.Mailbox,
                                Blame.Size,
                                Blame.Gateway,
                                Blame.Policy
                            ),
                        },
                        now
                    ),
                };
                told.Add(
                    $"{history}.{step} at {At(now)} by {kind}: {(ReferenceEquals(before, health) ? "as before" : $"{(health.Works ? "works" : $"fails since {At(health.FailingSince)}, {health.Because}, again at {At(health.RetryAt)}, {health.TrialsLeft} more")}; rests until {At(health.RestsUntil)}; {(health.Passes ? "passes" : "new")}; refused {string.Join(' ', health.Refused.Keys.Order(StringComparer.Ordinal))}; put off {string.Join(' ', messages.Select(m => At(health.PutOffSince(m))))}; believes {health.Believed("a@b")} {health.Believed("x@y")}")}"
                );
            }
        }

        Kept.Same("gateways", told);
    }
}
