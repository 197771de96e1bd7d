using System.Text.Json.Nodes;
using Sirena.Core.Sources;
using Sirena.Formats.Sources;

namespace Sirena.Web.Pages.Sources;

public sealed partial class ReadingModel
{
    private async Task ActAsync(string act, CancellationToken cancel)
    {
        var (what, about) = act.IndexOf(':', StringComparison.Ordinal) is >= 0 and var at ? (act[..at], act[(at + 1)..]) : (act, "");
        switch (what)
        {
            case "value" when BodyPath.Parse(about).Path is { } place:
                if (!string.IsNullOrEmpty(Open) && ReadingDraft.IsField(Open))
                {
                    Draft.Use(Open, place);
                }
                else
                {
                    Place = place;
                }

                break;
            case "as"
                when Request.Form["place"].ToString() is { Length: > 0 } text
                    && BodyPath.Parse(text).Path is { } place
                    && ReadingDraft.IsField(Request.Form["as"].ToString()):
                Draft.Use(Request.Form["as"].ToString(), place);
                break;
            case "open" when ReadingDraft.IsField(about):
                Open = Open == about ? null : about;
                break;
            case "drop" when ReadingDraft.IsField(about):
                Draft.Remove(about);
                Open = Open == about ? null : Open;
                break;
            case "how" when ReadingDraft.IsField(about):
                How(about);
                break;
            case "each":
                Each(about);
                break;
            case "propose":
            case "take":
                await ProposeAsync(what == "take" ? about : null, cancel);
                break;
            case "body" when long.TryParse(about, out var number):
                Body = number;
                await ShowAsync(cancel);
                break;
        }

        Dirty = !JsonNode.DeepEquals(Draft.Document, Source.Reading is { } there ? JsonNode.Parse(there) : new JsonObject());
    }

    private void Each(string place)
    {
        if (place.Length == 0)
        {
            Draft.Remove("each");
        }
        else if (
            BodyPath.Parse(place).Path is { } path
            && path.Steps.Select((s, i) => (s, i)).FirstOrDefault(x => x.s.Index is not null, (default, -1)).Item2 is >= 0 and var index
        )
        {
            Draft.Set("each", path.First(index).Then(new PathStep(null, null)).Text);
        }
    }

    // How the open field is read, as the form has it.
    private void How(string field)
    {
        if (Draft.Get(field)?.DeepClone() is not JsonObject value)
        {
            return;
        }

        foreach (var name in new[] { "form", "zone", "decimal", "else", "otherwise" })
        {
            if (Request.Form.ContainsKey("how." + name))
            {
                value.Remove(name);
                if (Request.Form["how." + name].ToString().Trim() is { Length: > 0 } text)
                {
                    value[name] =
                        name == "form" && text.Contains('|', StringComparison.Ordinal)
                            ? new JsonArray([
                                .. text.Split('|', StringSplitOptions.TrimEntries | StringSplitOptions.RemoveEmptyEntries).Select(t => JsonValue.Create(t)),
                            ])
                            : text;
                }
            }
        }

        if (Request.Form.ContainsKey("how.minor"))
        {
            value.Remove("minor");
            if (int.TryParse(Request.Form["how.minor"], out var minor) && minor > 0)
            {
                value["minor"] = minor;
            }
        }

        if (Request.Form.ContainsKey("word.0"))
        {
            var words = new JsonObject();
            for (var i = 0; Request.Form.ContainsKey($"word.{i}") && i < 500; i++)
            {
                if (
                    Request.Form[$"word.{i}"].ToString().Trim() is { Length: > 0 } theirs
                    && Request.Form[$"ours.{i}"].ToString().Trim() is { Length: > 0 } ours
                )
                {
                    words[theirs] = ours;
                }
            }

            value.Remove("words");
            if (words.Count > 0)
            {
                value["words"] = words;
            }
        }

        Draft.Set(field, value);
    }

    private async Task ProposeAsync(string? field, CancellationToken cancel)
    {
        if (Values.Count == 0)
        {
            return;
        }

        Proposed = await trial.ProposeAsync(Values, Source.Kind == SourceKind.Listing, cancel);
        var document = new ReadingDraft(ReadingWriter.Write(Proposed.Reading));
        foreach (
            var name in field switch
            {
                null => [],
                "all" => ["each", "order.lines", .. ReadingDraft.Fields],
                _ => new[] { field },
            }
        )
        {
            if (document.Get(name) is { } value && Draft.Get(name) is null)
            {
                Draft.Set(name, value.DeepClone());
            }
        }

        if (field is not (null or "all") && document.Get("each") is { } each && Draft.Each is null)
        {
            Draft.Set("each", each.DeepClone());
        }

        if (field == "all")
        {
            Proposed = null;
        }
    }
}
