using System.Text;
using Sirena.Core.Deliveries;
using Sirena.Core.Instructions;
using Sirena.Core.Ladders;
using Sirena.Core.Orders;
using Sirena.Core.Orders.Fields;
using Sirena.Core.Rules;
using Sirena.Core.Sources;
using Sirena.Core.Wordings;

namespace Sirena.Core.Tests;

/// <summary>The tables that pages, documents and messages are made of, a line a row: whoever changes a row sees what it changes for others.</summary>
public sealed class CataloguesTests
{
    private static string Marks(params (string Mark, bool Is)[] marks) => string.Join(' ', marks.Where(m => m.Is).Select(m => m.Mark));

    [Fact]
    public void What_there_is_to_choose_from_is_what_was_found_good()
    {
        var text = new StringBuilder();
        void Table(string title, IEnumerable<string> rows) => text.Append($"== {title}\n").AppendJoin('\n', rows.Select(r => r.TrimEnd())).Append("\n\n");
        Table(
            "fields of rules: path, type, name, choices, unit, example",
            FieldCatalogue
                .All.Concat(FieldCatalogue.OfLines)
                .Append(FieldCatalogue.Find("order.extra.a.b")!)
                .Append(FieldCatalogue.Find("event.extra.a")!)
                .Select(f =>
                    $"{f.Path}, {f.Type}, {f.Name}, [{string.Join(' ', f.Choices)}], {FieldCatalogue.Unit(f)}, {FieldCatalogue.Example(f)}, "
                    + $"{f.Lines} [{string.Join('/', f.Members)}]"
                )
        );
        Table(
            "fields of texts: path, name",
            WordingFields.All.Select(f =>
                $"{f.Path}, {f.Name} {Marks(("internal", f.Internal), ("section", f.Section), ("house", WordingFields.IsOfHouse(f.Path)))}"
            )
        );
        Table("fields of lines in texts", WordingFields.OfLine.Select(f => $"{f.Path}, {f.Name} {Marks(("internal", f.Internal), ("section", f.Section))}"));
        Table("fields of readings", ReadingField.All.Concat(ReadingField.Line).Select(f => $"{f.Path}, {f.As}, {f.Name}"));
        Table(
            "events",
            EventTypes
                .All.Append("tide.turned")
                .Select(t => $"{t}, {EventTypes.Name(t)}, {EventTypes.Phrase(t)} {Marks(("order", EventTypes.NeedsOrder(t)), ("own", EventTypes.IsOwn(t)))}")
        );
        Table(
            "operators",
            Names
                .All<Operator>()
                .Select(w => Names.Parse<Operator>(w)!.Value)
                .Select(o => $"{o}, {o.Phrase()} {Marks(("nothing", o.TakesNothing()), ("list", o.TakesList()))}")
        );
        Table("operators of types", Enum.GetValues<FieldType>().Select(t => $"{t}: {string.Join(' ', Operators.For(t))}"));
        Table(
            "channels",
            ChannelTraits.All.Select(t =>
                $"{t.Channel}, {t.Word}, {t.Title}, {t.Glyph}, {t.Lacking}, {t.Body}, [{string.Join(' ', t.Parts.Select(p => $"{p.Name}:{p.Rows} '{p.Label}'"))}] "
                + Marks(
                    ("person", t.ToPerson),
                    ("anybody", t.ToAnybody),
                    ("gathers", t.Gathers),
                    ("answers", t.CanAnswer),
                    ("gateway", t.ByGateway),
                    ("address", t.ByAddress),
                    ("sight", t.OnSight)
                )
            )
        );
        Table("answers", AnswerTraits.All.Select(a => $"{a.Kind}, {a.Said}, {a.Does}, {a.When}, [{string.Join(' ', a.Replies)}]"));
        Table(
            "instructions",
            InstructionKinds.All.Select(k =>
                $"{k.Name}, {k.Button}, main {k.Main}, tells [{string.Join(' ', k.Tells)}], "
                + string.Join(" ", k.Members.Select(m => $"{m.Name}:{m.Type}{(m.Needed ? "!" : "")} '{m.Label}' {string.Join('/', m.Among ?? [])}".TrimEnd()))
                + " "
                + Marks(("final", k.Final), ("source", k.OfSource), ("again", k.Again), ("own", k.Own))
            )
        );
        Table("tones", StatusTones.All.Select(t => $"{t.Id}, {t.Day}, {t.Night}"));
        Kept.Same("catalogues", text.ToString());
    }
}
