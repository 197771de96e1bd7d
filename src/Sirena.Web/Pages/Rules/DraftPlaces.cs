namespace Sirena.Web.Pages.Rules;

/// <summary>Where the form shows what a document says at a path.</summary>
public static class DraftPlaces
{
    /// <summary>
    /// The place in the form of a mistake in the document: <c>cases[1].onlyIf.all[0].any[1].value</c> is <c>k1.c.0.1</c>, <c>ladder[0].tell[1].person</c> is
    /// <c>k0.s0.tell</c>.
    /// </summary>
    public static string Of(string path)
    {
        string[] parts = path.Split('.');
        var place = "";
        if (Index(parts[0], "cases") is { } branch)
        {
            (place, parts) = ($"k{branch}.", parts[1..]);
            if (parts.Length == 0)
            {
                return place.TrimEnd('.');
            }
        }

        if (parts[0] == "onlyIf")
        {
            return place
                + "c"
                + string.Concat(
                    parts[1..]
                        .Where(p => p.Contains('[', StringComparison.Ordinal) && !p.StartsWith("value", StringComparison.Ordinal))
                        .Select(p => "." + p[(p.IndexOf('[', StringComparison.Ordinal) + 1)..^1])
                );
        }

        var ofCase =
            place.Length > 0
            || parts[0].Split('[')[0] is "tell" or "by" or "wording" or "ladder" or "notOlderThan" or "do" or "offer" or "onAnswer" or "onLanded";
        place = ofCase && place.Length == 0 ? "k0." : place;
        if (Index(parts[0], "ladder") is { } step)
        {
            (place, parts) = ($"{place}s{step}.", parts[1..]);
            if (parts.Length == 0)
            {
                return place.TrimEnd('.');
            }
        }

        return place + parts[0].Split('[')[0];

        static int? Index(string part, string name) =>
            part.StartsWith(name + "[", StringComparison.Ordinal) && int.TryParse(part[(name.Length + 1)..^1], out var i) ? i : null;
    }
}
