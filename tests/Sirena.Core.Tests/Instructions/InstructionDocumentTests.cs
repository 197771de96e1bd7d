using Sirena.Core.Instructions;
using Sirena.Core.Ladders;
using Sirena.Formats.Documents;
using Sirena.Formats.Instructions;
using Sirena.Formats.Rules;

namespace Sirena.Core.Tests.Instructions;

/// <summary>What is asked of an order system as a document writes it: each short form, each member, each mistake at its place.</summary>
public sealed class InstructionDocumentTests
{
    // The instructions of a step of a ladder, where a source takes all but one of those that Sirena knows.
    private static (string[] Asks, IReadOnlyList<DocumentError> Errors) Do(string list)
    {
        var names = new KnownNames(
            ["ines.calder"],
            ["desk"],
            ["picking", "cancelled"],
            new Dictionary<string, System.Collections.Immutable.ImmutableArray<LadderStep>>()
        )
        {
            Instructions = InstructionKinds.All.Where(k => k.Name != "capture").ToDictionary(k => k.Name),
        };
        var (steps, errors) = LadderReader.ReadLadder($"- {{ after: PT5M, do: {list} }}", yaml: true, names);
        return ([.. steps.SelectMany(s => s.Do).Select(a => $"{a.Kind} {a.With}")], errors);
    }

    [Theory]
    [InlineData("[ release ]", "release {}")]
    [InlineData("[ { release: } ]", "release {}")]
    [InlineData("[ { hold: no room } ]", """hold {"reason":"no room"}""")]
    [InlineData("[ { hold: { reason: ' no room ' } } ]", """hold {"reason":"no room"}""")]
    [InlineData("[ { status: picking } ]", """status {"to":"picking"}""")]
    [InlineData("[ { refund: all } ]", "refund {}")]
    [InlineData("[ { refund: 20.5 } ]", """refund {"amount":20.5}""")]
    [InlineData("[ { refund: { amount: '20.50', reason: late } } ]", """refund {"amount":20.50,"reason":"late"}""")]
    [InlineData("[ { refund: 999999999.99 } ]", """refund {"amount":999999999.99}""")]
    [InlineData("[ { tag: vip } ]", """tag {"add":["vip"]}""")]
    [InlineData("[ { tag: { add: [a, b, a], remove: c, of: customer } } ]", """tag {"add":["a","b"],"remove":["c"],"of":"customer"}""")]
    [InlineData("[ { note: 'For {{order.number}}' } ]", """note {"text":"For {{order.number}}"}""")]
    [InlineData("[ { note: { text: Hello, visibleToCustomer: true } } ]", """note {"text":"Hello","visibleToCustomer":true}""")]
    [InlineData("[ { assign: ines.calder } ]", """assign {"salesperson":"ines.calder"}""")]
    [InlineData("[ { cancel: { putBack: false } } ]", """cancel {"putBack":false}""")]
    public void Each_form_is_read(string list, string ask)
    {
        var (asks, errors) = Do(list);
        Assert.Empty(errors);
        Assert.Equal([ask], asks);
    }

    [Theory]
    [InlineData("[ relase ]", "steps[0].do[0]", "There is no instruction 'relase'. Did you mean 'release'?")]
    [InlineData("[ capture ]", "steps[0].do[0]", "No source takes 'capture'.")]
    [InlineData("[ { hold: {}, release: {} } ]", "steps[0].do[0]", "An instruction is one of its names")]
    [InlineData("[ { } ]", "steps[0].do[0]", "An instruction is one of its names")]
    [InlineData("[ [ hold ] ]", "steps[0].do[0]", "An instruction is one of its names")]
    [InlineData("[ { hold: { reson: x } } ]", "steps[0].do[0].hold.reson", "no member 'reson'. Did you mean 'reason'?")]
    [InlineData("[ { hold: [ x ] } ]", "steps[0].do[0].hold.reason", "'reason' must be text.")]
    [InlineData("[ { hold: ' ' } ]", "steps[0].do[0].hold.reason", "'reason' must be text.")]
    [InlineData("[ { status: pickin } ]", "steps[0].do[0].status.to", "no status 'pickin'. Did you mean 'picking'?")]
    [InlineData("[ { status: { } } ]", "steps[0].do[0].status.to", "'to' is missing: move to needs it.")]
    [InlineData("[ status ]", "steps[0].do[0].to", "'to' is missing: move to needs it.")]
    [InlineData("[ { refund: 0 } ]", "steps[0].do[0].refund.amount", "An amount is a number above 0")]
    [InlineData("[ { refund: -5 } ]", "steps[0].do[0].refund.amount", "An amount is a number above 0")]
    [InlineData("[ { refund: 1000000000 } ]", "steps[0].do[0].refund.amount", "An amount is a number above 0")]
    [InlineData("[ { refund: '1,5' } ]", "steps[0].do[0].refund.amount", "An amount is a number above 0")]
    [InlineData("[ { refund: [ 5 ] } ]", "steps[0].do[0].refund.amount", "An amount is a number above 0")]
    [InlineData("[ { tag: { } } ]", "steps[0].do[0].tag", "'tag' needs 'add' or 'remove'")]
    [InlineData("[ { tag: [ ] } ]", "steps[0].do[0].tag", "'tag' needs 'add' or 'remove'")]
    [InlineData("[ { tag: [ '' ] } ]", "steps[0].do[0].tag.add", "texts of 1 to 100 characters")]
    [InlineData("[ { tag: { add: [ x ], of: planet } } ]", "steps[0].do[0].tag.of", "'of' is one of order, customer.")]
    [InlineData("[ { note: { text: x, visibleToCustomer: maybe } } ]", "steps[0].do[0].note.visibleToCustomer", "must be true or false")]
    [InlineData("[ { note: 'For {{order.numbr}}' } ]", "steps[0].do[0].note.text", "no field 'order.numbr'")]
    [InlineData("[ { assign: nobody } ]", "steps[0].do[0].assign.salesperson", "There is no person 'nobody'.")]
    public void A_mistake_is_said_at_its_place(string list, string path, string words)
    {
        var (_, errors) = Do(list);
        var error = Assert.Single(errors, e => e.Path == path);
        Assert.Contains(words, error.Problem);
    }

    [Fact]
    public void Texts_and_lists_end_somewhere()
    {
        Assert.Empty(Do($"[ {{ note: {new string('x', 2_000)} }} ]").Errors);
        Assert.Contains("longer than 2000", Assert.Single(Do($"[ {{ note: {new string('x', 2_001)} }} ]").Errors).Problem);
        string Tags(int count) => $"[ {{ tag: [ {string.Join(", ", Enumerable.Range(0, count).Select(i => $"t{i}"))} ] }} ]";
        Assert.Empty(Do(Tags(50)).Errors);
        Assert.Contains("at most 50", Assert.Single(Do(Tags(51)).Errors).Problem);
    }

    // Asked for by a person or a program at once: nothing is filled in, so braces are plain text; members of what holds it are not its own.
    [Fact]
    public void What_is_asked_for_at_once_is_taken_as_it_stands()
    {
        var names = new InstructionNames(null, ["picking"], null);
        (InstructionAsk? Ask, IReadOnlyList<DocumentError> Errors) Read(string kind, string yaml) =>
            InstructionReader.ReadMembers((MapNode)DocumentText.Read(yaml, yaml: true).Node!, InstructionKinds.Find(kind)!, ["order", "kind"], names);
        Assert.Equal("""{"text":"Hi {{you"}""", Read("note", "{ order: A, kind: note, text: 'Hi {{you' }").Ask!.With);
        Assert.Contains("no member 'because'", Assert.Single(Read("note", "{ order: A, kind: note, text: Hi, because: x }").Errors).Problem);
        Assert.Contains("no status 'pickd'", Assert.Single(Read("status", "{ order: A, kind: status, to: pickd }").Errors).Problem);
        Assert.Null(Read("status", "{ order: A }").Ask);
    }

    [Theory]
    [InlineData("kind: cancel", "", "The rights are a list")]
    [InlineData("- cancel", "[0]", "A right")]
    [InlineData("- { roles: [staff] }", "[0].kind", "kind")]
    [InlineData("- { kind: cancel, roles: [staff] }\n- { kind: cancel, roles: [staff] }", "[1].kind", "'cancel' stands twice.")]
    [InlineData("- { kind: cancel, secondYes: perhaps }", "[0].secondYes", "true or false")]
    [InlineData("- { kind: cancel, who: [staff] }", "[0].who", "no member 'who'")]
    public void Who_may_ask_is_a_list_of_kinds_each_once(string yaml, string path, string words)
    {
        var (_, errors) = RightsReader.Read(DocumentText.Read(yaml, yaml: true).Node!);
        Assert.Contains(errors, e => e.Path == path && e.Problem.Contains(words, StringComparison.Ordinal));
    }

    [Fact]
    public void Rights_are_read_bare_or_as_a_list_gives_them()
    {
        const string One = "{ kind: cancel, roles: [supervisor], teams: [desk], secondYes: true }";
        foreach (var yaml in new[] { $"- {One}", $"items: [ {One} ]" })
        {
            var (rights, errors) = RightsReader.Read(DocumentText.Read(yaml, yaml: true).Node!);
            Assert.Empty(errors);
            var right = Assert.Single(rights);
            Assert.Equal(("cancel", "supervisor", "desk", true), (right.Kind, Assert.Single(right.Roles), Assert.Single(right.Teams), right.SecondYes));
        }
    }
}
