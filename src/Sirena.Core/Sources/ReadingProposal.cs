using System.Collections.Frozen;
using System.Text.Json;
using NodaTime;
using Sirena.Core.Orders;

namespace Sirena.Core.Sources;

/// <summary>
/// Proposes a reading from bodies that came: by what each value is called and what it looks like. Computed, never learnt; the same bodies give the same
/// proposal. What two readings fit equally is said in the reason.
/// </summary>
public sealed partial class ReadingProposal
{
    private const int MostBodies = 50;

    // From here on a score says that a value is the order's number.
    private const double Enough = 2.2;
    private readonly StatusWords statuses;
    private readonly DateTimeZone zone;
    private readonly List<BodyLeaf> leaves = [];
    private readonly List<FieldReading> fields = [];
    private readonly Dictionary<string, string> because = [];
    private readonly JsonElement[] all;
    private readonly bool columns;
    private Dictionary<BodyPath, int>? speaking;

    private ReadingProposal(IReadOnlyList<JsonElement> bodies, StatusWords statuses, DateTimeZone zone, bool columns)
    {
        (this.statuses, this.zone, this.columns, all) = (statuses, zone, columns, [.. bodies.Take(MostBodies)]);
        var found = new Dictionary<string, BodyLeaf>();
        foreach (var body in all)
        {
            BodyLeaf.Walk(body, BodyPath.Root, found);
        }

        leaves.AddRange(found.Values);
    }

    /// <summary>Proposes.</summary>
    /// <param name="bodies">One to fifty bodies; a row is an object of its columns.</param>
    /// <param name="statuses">The statuses' words.</param>
    /// <param name="zone">The business's zone.</param>
    /// <param name="columns">The bodies are rows of a listing.</param>
    public static Proposal Of(IReadOnlyList<JsonElement> bodies, StatusWords statuses, DateTimeZone zone, bool columns = false) =>
        new ReadingProposal(bodies, statuses, zone, columns).Make();

    private Proposal Make()
    {
        var each = EachOf();
        var inside = leaves.Where(l => each is null ? !l.Path.IsMany : l.Path.After(each) is { IsMany: false }).ToList();
        var outside = each is null ? [] : leaves.Where(l => !l.Path.IsMany).ToList();
        var (said, otherwise) = columns ? (null, Reading.NotUnderstood) : EventOf([.. inside, .. outside], each);
        Number(inside, each);
        Status(inside, each);
        Times(inside, outside, each, out var time);
        Amounts(inside, each);
        Texts(inside, each);
        var lines = LinesOf(each);
        var reading = new Reading
        {
            Event = said,
            Otherwise = otherwise,
            Time = time,
            Each = each,
            Fields = [.. fields.OrderBy(f => Place(f.Field.Path))],
            Lines = lines,
        };
        return new Proposal(reading, because);
    }

    private static int Place(string path) => ReadingField.All.Select((f, i) => (f, i)).FirstOrDefault(f => f.f.Path == path, (null!, 1_000)).Item2;

    // A list of objects is a list of orders when what identifies an order stands in it and nowhere beside it; a number that is called so by itself alone
    // counts where nothing beside the list could be one.
    private BodyPath? EachOf()
    {
        var lists = leaves.Where(l => l.Path.IsMany).Select(l => l.Path.First(FirstAll(l.Path) + 1)).Distinct().ToList();
        var best = lists
            .Select(p => (Path: p, Inner: leaves.Where(l => l.Path.After(p) is { IsMany: false }).ToList()))
            .Select(x =>
                (
                    x.Path,
                    Score: x.Inner.Sum(l => Hint(l, Lexicon.Order)) - x.Inner.Sum(l => Hint(l, Lexicon.LineOnly)),
                    Numbers: x.Inner.Select(NumberScore).DefaultIfEmpty().Max()
                )
            )
            .Where(x => x.Score > 0 && x.Numbers >= Enough)
            .OrderByDescending(x => x.Score)
            .FirstOrDefault();
        if (best.Path is null || leaves.Any(l => !l.Path.IsMany && NumberScore(l) >= (best.Numbers >= 4 ? best.Numbers + 2 : Enough)))
        {
            return null;
        }

        because["each"] = $"{best.Path.Text} is a list whose items carry what tells one order from another.";
        return best.Path;
    }

    private static int FirstAll(BodyPath path) => path.Steps.Select((s, i) => (s, i)).First(x => x.s.IsAll).i;

    private (ValueReading? Event, string Otherwise) EventOf(List<BodyLeaf> all, BodyPath? each)
    {
        var best = all.Select(l => (Leaf: l, Words: Happenings.Of(l.Texts), Hint: Hint(l, Lexicon.Event)))
            .Where(x => x.Words.Count > 0 && x.Leaf.Distinct.Count <= 30 && (x.Hint > 0 || SpeaksOfEvents(x.Leaf, x.Words.Count)))
            .Select(x => (x.Leaf, x.Words, Score: (x.Hint * 2) + (2.0 * x.Words.Count / x.Leaf.Distinct.Count) - (statuses.Fits(x.Leaf.Distinct) ? 2 : 0)))
            .OrderByDescending(x => x.Score)
            .FirstOrDefault();
        if (best.Leaf is null || best.Score < 2)
        {
            because["event"] = "No value names what happened: each body is taken as a change of the order; what is new is known by its number.";
            return (new ValueReading { Always = JsonSerializer.SerializeToElement("order.changed") }, Reading.NotUnderstood);
        }

        best.Leaf.Used = true;
        var open = best.Leaf.Distinct.Where(w => !best.Words.ContainsKey(w)).Take(5).Select(Short).ToArray();
        because["event"] =
            $"'{best.Leaf.Path.LastName}' says what happened: {string.Join(", ", best.Words.Select(w => $"{Short(w.Key)} is {w.Value}"))}."
            + (open.Length > 0 ? $" Not known: {string.Join(", ", open)}." : "");
        return (ValueOf(best.Leaf, each) with { Words = best.Words.ToFrozenDictionary() }, Reading.NotUnderstood);
    }

    // What is called like nothing in particular says what happened only by several words, all of them known; a status says how things stand.
    private static bool SpeaksOfEvents(BodyLeaf leaf, int known) => known > 1 && known == leaf.Distinct.Count && Hint(leaf, Lexicon.Status) == 0;

    private void Number(List<BodyLeaf> inside, BodyPath? each)
    {
        if (
            inside
                .Where(l => !l.Used)
                .Select(l => (Leaf: l, Score: NumberScore(l)))
                .Where(x => x.Score >= Enough)
                .OrderByDescending(x => x.Score)
                .ThenBy(x => x.Leaf.Path.Steps.Length)
                .FirstOrDefault() is
            { Leaf: { } leaf }
        )
        {
            Take(
                "order.number",
                leaf,
                ValueOf(leaf, each),
                leaf.Values.Count == 1
                    ? $"It is called '{leaf.Path.LastName}': {Quoted(leaf)}."
                    : $"It is called '{leaf.Path.LastName}', is there in {Of(leaf, each)}, and "
                        + $"{(leaf.Distinct.Count == leaf.Values.Count ? "is never the same twice" : $"has {leaf.Distinct.Count} values")}: {Quoted(leaf)}."
            );
        }
    }

    private double NumberScore(BodyLeaf l)
    {
        if (
            l.Texts.Count == 0
            || l.Texts.Any(t =>
                t.Length is 0 or > 60 || t.Contains('@', StringComparison.Ordinal) || t.Contains(' ', StringComparison.Ordinal) && !t.Any(char.IsDigit)
            )
            || l.Texts.Count(t => t.Any(char.IsDigit)) < l.Texts.Count * 0.9
        )
        {
            return 0;
        }

        // What stands in a list of orders is not an order's number for that: a customer's, a delivery's or a message's is called so itself.
        var hint = Hint(l, Lexicon.Number);
        return hint == 0 || hint < 2 && SpeaksOf(l, Lexicon.NotNumber) || OwnHint(l, Lexicon.Number) < 2 && OwnHint(l, Lexicon.NotNumber) > 0
            ? 0
            : (hint * 2)
                + (l.Distinct.Count > l.Values.Count * 0.5 ? 1 : 0)
                + (l.Texts.All(t => t.Any(char.IsLetter) && t.Any(char.IsDigit)) ? 1 : 0)
                + (hint < 2 && StandsInAnOrder(l) ? 1 : 0)
                - (l.Path.Steps.Length * 0.1);
    }

    // Something else in the same object speaks of an order.
    private bool StandsInAnOrder(BodyLeaf leaf)
    {
        speaking ??= leaves.Where(l => Hint(l, Lexicon.Order) > 0).GroupBy(Above).ToDictionary(g => g.Key, g => g.Count());
        return speaking.GetValueOrDefault(Above(leaf)) > (Hint(leaf, Lexicon.Order) > 0 ? 1 : 0);
    }

    private static BodyPath Above(BodyLeaf leaf) => leaf.Path.First(leaf.Path.Steps.Length - 1);

    private void Status(List<BodyLeaf> inside, BodyPath? each)
    {
        var found = inside
            .Where(l => !l.Used && l.Texts.Count > 0 && l.Distinct.Count <= 40 && !SpeaksOf(l, Lexicon.NotStatus))
            .Select(l => (Leaf: l, Known: l.Distinct.Count(statuses.Knows), Hint: Hint(l, Lexicon.Status)))
            .Where(x => x.Hint >= 3 || !x.Leaf.Texts.All(t => t.All(char.IsDigit)))
            .Where(x => x.Hint > 0 || (x.Known > 1 && x.Known == x.Leaf.Distinct.Count))
            .OrderByDescending(x => (x.Hint * 2) + (3.0 * x.Known / x.Leaf.Distinct.Count))
            .FirstOrDefault();
        if (found.Leaf is { } leaf)
        {
            var strange = leaf.Distinct.Where(w => !statuses.Knows(w)).Take(6).ToArray();
            var missing = $"no status has the word{(strange.Length == 1 ? "" : "s")} {Quoted(strange)} yet";
            var known = leaf.Distinct.Count == 1 ? "Its one word is a status's" : $"{found.Known} of its {leaf.Distinct.Count} words are a status's";
            Take(
                "order.status",
                leaf,
                ValueOf(leaf, each),
                found.Known == 0 ? $"{Sentences.Capital(missing)}."
                    : strange.Length > 0 ? $"{known}; {missing}."
                    : $"{known}."
            );
        }
    }

    private void Times(List<BodyLeaf> inside, List<BodyLeaf> outside, BodyPath? each, out ValueReading? time)
    {
        var dated = inside.Concat(outside).Where(l => !l.Used).Select(l => (Leaf: l, Date: DateGuess.Of(l.Texts)!)).Where(x => x.Date is not null).ToList();
        (BodyLeaf Leaf, DateGuess Date) Best(IEnumerable<(BodyLeaf Leaf, DateGuess Date)> of, Lexicon lexicon) =>
            of.Where(x => !x.Leaf.Used && Hint(x.Leaf, lexicon) > 0).OrderByDescending(x => Hint(x.Leaf, lexicon)).FirstOrDefault();
        void Find(string path, Lexicon lexicon)
        {
            if (Best(dated.Where(x => inside.Contains(x.Leaf)), lexicon) is ({ } leaf, var date))
            {
                Take(path, leaf, Dated(ValueOf(leaf, each), date), $"It is called '{leaf.Path.LastName}', and {date.Why}.");
            }
        }

        Find("order.dueAt", Lexicon.Due);

        // Of two such dates one is when the order is due; the other is not when it was placed or when this was sent.
        dated.RemoveAll(x => Hint(x.Leaf, Lexicon.Due) > 0);
        Find("order.placedAt", Lexicon.Placed);
        time = null;
        if (!columns && Best(dated, Lexicon.Sent) is ({ } sent, var said))
        {
            sent.Used = true;
            time = Dated(ValueOf(sent, each), said);
            because["time"] = $"It is called '{sent.Path.LastName}', and {said.Why}.";
        }
    }

    private ValueReading Dated(ValueReading value, DateGuess date) => value with { Forms = date.Forms, Zone = date.NeedsZone ? zone : null };

    private void Take(string path, BodyLeaf leaf, ValueReading value, string why)
    {
        leaf.Used = true;
        fields.Add(new FieldReading(ReadingField.Find(path)!, value));
        because[path] = why;
    }

    private ValueReading ValueOf(BodyLeaf leaf, BodyPath? each)
    {
        var path = each is null ? leaf.Path : leaf.Path.After(each) ?? leaf.Path;
        return new ValueReading { Path = path, Column = columns ? path.LastName : null };
    }

    private string Of(BodyLeaf leaf, BodyPath? each) =>
        $"{leaf.Values.Count} of "
        + (
            each is not null ? $"{all.Sum(b => Math.Min(BodyLeaf.MostItems, each.In(b).Count))} orders"
            : columns ? $"{all.Length} rows"
            : $"{all.Length} bodies"
        );

    private static string Quoted(BodyLeaf leaf) => Quoted(leaf.Distinct.Take(2));

    private static string Quoted(IEnumerable<string> words) => string.Join(", ", words.Select(w => $"'{Short(w)}'"));

    private static string Short(string word) => Deliveries.FarText.Clean(word, 40);

    private static double Hint(BodyLeaf leaf, Lexicon lexicon) => lexicon.Score(leaf.Names);

    // By its own name, whatever stands above it.
    private static double OwnHint(BodyLeaf leaf, Lexicon lexicon) => lexicon.Score([.. leaf.Names.Take(1)]);

    // By its own name, or by the one above it.
    private static bool SpeaksOf(BodyLeaf leaf, Lexicon lexicon) => leaf.Names.Any(n => lexicon.Score([n]) > 0);
}
