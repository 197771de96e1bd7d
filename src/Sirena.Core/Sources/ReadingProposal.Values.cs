using Sirena.Core.People;

namespace Sirena.Core.Sources;

public sealed partial class ReadingProposal
{
    private const string CustomerName = "order.customer.name";

    private void Amounts(List<BodyLeaf> inside, BodyPath? each)
    {
        if (inside.FirstOrDefault(l => !l.Used && l.Texts.Count > 0 && IsCurrency(l)) is { } currency)
        {
            Take("order.currency", currency, ValueOf(currency, each), $"Every value is a code of ISO 4217: {Quoted(currency)}.");
        }

        Amount("order.total", inside, Lexicon.Total, each);
        Amount("order.risk.score", inside, Lexicon.RiskScore, each);
        Amount("stock.onHand", inside, Lexicon.OnHand, each);
        Amount("stock.threshold", inside, Lexicon.Threshold, each);
    }

    // Small letters are taken where the value is called a currency: 'all' and 'top' are codes, too.
    private static bool IsCurrency(BodyLeaf leaf) =>
        leaf.Texts.All(Currencies.Known.Contains) || (Hint(leaf, Lexicon.Currency) > 0 && leaf.Texts.All(t => Currencies.Known.Contains(t.ToUpperInvariant())));

    private void Amount(string path, List<BodyLeaf> inside, Lexicon lexicon, BodyPath? each)
    {
        if (
            inside
                .Where(l => !l.Used)
                .Select(l => (Leaf: l, Hint: Hint(l, lexicon), How: NumberGuess.Of(l)))
                .Where(x => x.Hint > 0 && x.How is not null)
                .OrderByDescending(x => x.Hint)
                .ThenByDescending(x => Hint(x.Leaf, Lexicon.Whole))
                .FirstOrDefault() is
            { Leaf: { } leaf } best
        )
        {
            Take(path, leaf, Amounted(ValueOf(leaf, each), best.How!), $"It is called '{leaf.Path.LastName}', and {best.How!.Why}.");
        }
    }

    private static ValueReading Amounted(ValueReading value, NumberGuess how) => value with { Decimal = how.Point, Minor = how.Minor };

    private void Texts(List<BodyLeaf> inside, BodyPath? each)
    {
        if (
            inside
                .Where(l => !l.Used && l.Texts.Count > 0 && l.Texts.All(t => MailAddress.TryParse(t, out _, out _)))
                .OrderByDescending(l => Hint(l, Lexicon.Customer))
                .FirstOrDefault() is
            { } mail
        )
        {
            Take("order.customer.email", mail, ValueOf(mail, each), $"Every value is a mail address: {Quoted(mail)}.");
        }

        if (
            inside.FirstOrDefault(l => !l.Used && l.Texts.Count > 0 && l.Texts.All(t => t.StartsWith('+') && PhoneNumber.TryParse(t, out _, out _))) is
            { } phone
        )
        {
            Take("order.customer.phone", phone, ValueOf(phone, each), $"Every value is a phone number with its country: {Quoted(phone)}.");
        }

        foreach (var (path, lexicon) in Lexicon.Texts)
        {
            if (
                inside
                    .Where(l => !l.Used && l.Texts.Count > 0)
                    .Select(l => (Leaf: l, Hint: Hint(l, lexicon)))
                    .Where(x => x.Hint >= lexicon.Enough && (path != CustomerName || Part(x.Leaf) is null) && !IsRather(x.Leaf, x.Hint))
                    .OrderByDescending(x => x.Hint)
                    .ThenBy(x => x.Leaf.Path.Steps.Length)
                    .FirstOrDefault() is
                { Leaf: { } leaf }
            )
            {
                Take(
                    path,
                    leaf,
                    ValueOf(leaf, each),
                    $"It is called '{leaf.Path.LastName}'{(leaf.Path.Steps.Length > 1 ? $" in {leaf.Path.Text}" : "")}: {Quoted(leaf)}."
                );
            }
            else if (path == CustomerName)
            {
                NameInParts(inside, each);
            }
        }
    }

    // What is called another field more surely: a customer's code is not his name, a risk's score in numbers not its level.
    private static bool IsRather(BodyLeaf leaf, double hint) =>
        Lexicon.Texts.Any(t => Hint(leaf, t.Words) > hint) || (Hint(leaf, Lexicon.RiskScore) > hint && NumberGuess.Of(leaf) is not null);

    // No article number has a space; what is called a number or a code alone and is a small one is the line's place.
    private static bool IsArticle(BodyLeaf leaf, double hint) =>
        !leaf.Texts.Any(t => t.Contains(' ', StringComparison.Ordinal)) && (hint >= 3 || !leaf.Texts.All(t => t.Length <= 3 && t.All(char.IsAsciiDigit)));

    // A first name and a family name that stand together are one name.
    private void NameInParts(List<BodyLeaf> inside, BodyPath? each)
    {
        if (
            inside.Where(l => !l.Used && l.Texts.Count > 0 && Part(l) is not null).GroupBy(Above).FirstOrDefault(g => g.DistinctBy(Part).Count() == 2) is
            { } parts
        )
        {
            var (first, last) = (parts.First(l => Part(l) == 0), parts.First(l => Part(l) == 1));
            last.Used = true;
            Take(
                CustomerName,
                first,
                new ValueReading { Join = [ValueOf(first, each), ValueOf(last, each)], Between = " " },
                $"'{first.Path.LastName}' and '{last.Path.LastName}' stand together: {Quoted(first)} and {Quoted(last)}."
            );
        }
    }

    // Which part of a person's name it is by its own name: 0 the first, 1 the last.
    private static int? Part(BodyLeaf leaf) =>
        OwnHint(leaf, Lexicon.FirstName) > 0 ? 0
        : OwnHint(leaf, Lexicon.LastName) > 0 ? 1
        : null;

    private LinesReading? LinesOf(BodyPath? each)
    {
        var from = each ?? BodyPath.Root;
        var list = leaves
            .Where(l => l.Path.After(from) is { IsMany: true })
            .Select(l => from.Steps.Length + FirstAll(l.Path.After(from)!) + 1 is var to ? l.Path.First(to) : from)
            .Distinct()
            .Select(p => (Path: p, Inner: leaves.Where(l => l.Path.After(p) is { IsMany: false }).ToList()))
            .Select(x => (x.Path, x.Inner, Score: x.Inner.Sum(l => Hint(l, Lexicon.LineOnly))))
            .Where(x => x.Score > 0)
            .OrderByDescending(x => x.Score)
            .FirstOrDefault();
        if (list.Path is null)
        {
            return null;
        }

        var read = new List<FieldReading>();
        foreach (var (member, lexicon) in Lexicon.Lines)
        {
            var field = ReadingField.Line.First(f => f.Path == member);
            if (
                list
                    .Inner.Where(l => !l.Used)
                    .Select(l => (Leaf: l, Hint: Hint(l, lexicon), How: NumberGuess.Of(l)))
                    .Where(x => x.Hint > 0 && (field.As != ReadAs.Number || x.How is not null))
                    .Where(x => member != "sku" || IsArticle(x.Leaf, x.Hint))
                    .OrderByDescending(x => x.Hint)
                    .FirstOrDefault() is
                { Leaf: { } leaf } best
            )
            {
                leaf.Used = true;
                var value = new ValueReading { Path = leaf.Path.After(list.Path) };
                read.Add(new FieldReading(field, field.As == ReadAs.Number ? Amounted(value, best.How!) : value));
            }
        }

        because["order.lines"] = $"{list.Path.Text} is a list with {string.Join(", ", read.Select(r => $"'{r.Value.Path!.LastName}' as {r.Field.Name}"))}.";
        return read.Count == 0 ? null : new LinesReading(list.Path.After(from)!, read);
    }
}
