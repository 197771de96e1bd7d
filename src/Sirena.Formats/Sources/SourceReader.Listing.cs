using Sirena.Core.Sources;
using Sirena.Formats.Documents;

namespace Sirena.Formats.Sources;

/// <content>How a list is taken.</content>
public sealed partial class SourceReader
{
    private ListingPlan? Listing(MapNode map, SourceKind kind, Source? there)
    {
        if (map["listing"] is not { } node)
        {
            if (kind == SourceKind.Listing && there?.Listing is null)
            {
                Wrong(
                    "listing",
                    map,
                    "'listing' is missing: { \"role\": \"orders\", \"key\": \"Nr\" } says what the list is for and which column tells one row from another."
                );
            }

            return there?.Listing;
        }

        if (kind == SourceKind.Documents)
        {
            return Map(node, "listing", "'listing' of documents", ["folder"]) is { } watched
                ? new ListingPlan { Folder = Text(watched, "folder", "listing") is { Length: > 0 } path ? path : null }
                : null;
        }

        if (kind != SourceKind.Listing || Map(node, "listing", "'listing'", ListingMembers) is not { } said)
        {
            Wrong("listing", node, "'listing' belongs to a source of the kind listing.");
            return null;
        }

        var old = there?.Listing ?? new ListingPlan();
        char? separator =
            said["separator"] is ScalarNode { Text: "\t" } ? '\t'
            : Text(said, "separator", "listing") is { } text
                ? text switch
                {
                    "tab" or "\\t" => '\t',
                    { Length: 1 } => text[0],
                    _ => '\0',
                }
            : old.Separator;
        var plan = new ListingPlan
        {
            Role = OneOf<ListingRole>(said, "role", "listing") ?? old.Role,
            Key = Text(said, "key", "listing") ?? old.Key,
            Gone = Text(said, "gone", "listing") is { } gone ? (gone == "nothing" ? null : gone) : old.Gone,
            Separator = separator,
            Charset = Text(said, "charset", "listing") ?? old.Charset,
            Schedule = Text(said, "schedule", "listing") is { } cron ? (cron.Length > 0 ? cron : null) : old.Schedule,
            Url = Text(said, "url", "listing") is { } url ? (url.Length > 0 ? url : null) : old.Url,
            Folder = Text(said, "folder", "listing") is { } folder ? (folder.Length > 0 ? folder : null) : old.Folder,
            GoneAtMost = Share(said, "goneAtMost") ?? old.GoneAtMost,
            ChangedAtMost = Share(said, "changedAtMost") ?? old.ChangedAtMost,
            Stands = Number(said, "stands", "listing") ?? old.Stands,
        };
        if (plan.Key.Length is 0 or > 200)
        {
            Wrong("listing.key", said, "'key' is missing: the column that tells one row from another.");
        }

        if (separator is '\0' or '"' or '\r' or '\n')
        {
            Wrong("listing.separator", said["separator"]!, "A separator is one character, such as ; or , or tab.");
        }

        if (TextBytes.Read([], plan.Charset).Error is { } unknown)
        {
            Wrong("listing.charset", said["charset"] ?? said, unknown.Problem);
        }

        if (
            plan.Url is { } address
            && !(Uri.TryCreate(address, UriKind.Absolute, out var at) && (at.Scheme == Uri.UriSchemeHttps || (at.Scheme == Uri.UriSchemeHttp && at.IsLoopback)))
        )
        {
            Wrong("listing.url", said["url"] ?? said, "A list is fetched over https, such as https://orders.example/open.csv.");
        }

        if (plan.Url is not null && plan.Schedule is null)
        {
            Wrong(
                "listing.schedule",
                said["url"] ?? said,
                "'schedule' is missing: it says when the list is fetched, such as \"15 2 * * *\" for a quarter past two each night."
            );
        }

        if (plan.Stands is < 1 or > 10)
        {
            Wrong("listing.stands", said["stands"]!, "A difference counts when it stands in 1 to 10 runs.");
        }

        return plan;
    }

    private decimal? Share(MapNode map, string name)
    {
        if (map[name] is not { } node)
        {
            return null;
        }

        if (node is ScalarNode { Decimal: { } share and >= 0 and <= 1 })
        {
            return share;
        }

        Wrong($"listing.{name}", node, $"'{name}' is a share from 0 to 1, such as 0.3.");
        return null;
    }
}
