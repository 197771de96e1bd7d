using System.Collections.Frozen;
using System.Text.Json.Nodes;
using Sirena.Core.Rules;

namespace Sirena.Core.Orders;

/// <summary>
/// The order system's words for the statuses: each is turned into the status's id as an event comes in, so that rules and lists know one name only.
/// </summary>
public sealed class StatusWords
{
    private readonly FrozenDictionary<string, string> byWord;
    private readonly FrozenSet<string> ids;

    /// <summary>The words of all statuses; case and accents do not matter.</summary>
    public StatusWords(IReadOnlyCollection<Status> statuses)
    {
        ids = statuses.Select(s => s.Id).ToFrozenSet();
        byWord = statuses
            .SelectMany(s => s.Words.Prepend(s.Id).Prepend(s.Name).Select(w => (Word: TextFolding.Fold(w), s.Id)))
            .DistinctBy(w => w.Word)
            .ToFrozenDictionary(w => w.Word, w => w.Id);
    }

    /// <summary>The id of the status that a word means; the word itself when it means none.</summary>
    public string IdOf(string word) => byWord.GetValueOrDefault(TextFolding.Fold(word.Trim()), word);

    /// <summary>Whether a word means a status.</summary>
    public bool Knows(string word) => byWord.ContainsKey(TextFolding.Fold(word.Trim()));

    /// <summary>Whether most of some words mean one.</summary>
    public bool Fits(IReadOnlyCollection<string> words) => words.Count > 0 && words.Count(Knows) * 2 > words.Count;

    /// <summary>Puts ids for the words in an event's data: the order's status, and a change of it.</summary>
    public void Apply(JsonObject data)
    {
        Put(data["order"] as JsonObject, "status");
        if (
            data["change"] is JsonObject change
            && change["field"] is JsonValue field
            && field.TryGetValue<string>(out var name)
            && name is "status" or "order.status"
        )
        {
            Put(change, "before");
            Put(change, "after");
        }
    }

    /// <summary>
    /// Reads words as a person types them, with commas, semicolons or line breaks between; a space is part of one, since many an order system says
    /// <c>Awaiting payment</c>.
    /// </summary>
    public static string[] Read(string? text) => [.. TypedList.Read(text).Distinct()];

    private void Put(JsonObject? map, string member)
    {
        if (map?[member] is JsonValue value && value.TryGetValue<string>(out var word) && !ids.Contains(word) && IdOf(word) is var id && id != word)
        {
            map[member] = id;
        }
    }
}
