using Sirena.Core.Instructions;
using Sirena.Formats.Documents;

namespace Sirena.Formats.Instructions;

/// <summary>Reads who may ask for what: a list of kind, roles, teams, secondYes.</summary>
public sealed class RightsReader : DocumentReader
{
    private RightsReader() { }

    /// <summary>Reads it.</summary>
    public static (IReadOnlyList<InstructionRight> Rights, IReadOnlyList<DocumentError> Errors) Read(Node node)
    {
        var reader = new RightsReader();
        var rights = reader.All(node is MapNode map && map["items"] is { } items ? items : node);
        return (rights, reader.Errors);
    }

    private List<InstructionRight> All(Node node)
    {
        var rights = new List<InstructionRight>();
        if (node is not ListNode list)
        {
            Wrong("", node, "The rights are a list, such as [ { kind: cancel, roles: [supervisor], teams: [credit-control], secondYes: true } ].");
            return rights;
        }

        for (var i = 0; i < list.Items.Count; i++)
        {
            var at = $"[{i}]";
            if (
                Map(list.Items[i], at, "A right", ["id", "kind", "roles", "teams", "secondYes"]) is { } map
                && Text(map, "kind", at, required: true) is { } kind
            )
            {
                if (rights.Exists(r => r.Kind == kind))
                {
                    Wrong(At(at, "kind"), map["kind"]!, $"'{kind}' stands twice.");
                }

                rights.Add(
                    new InstructionRight
                    {
                        Kind = kind,
                        Roles = [.. Texts(map, "roles", at).Select(r => r.Text)],
                        Teams = [.. Texts(map, "teams", at).Select(t => t.Text)],
                        SecondYes = Bool(map, "secondYes", at) ?? false,
                    }
                );
            }
        }

        return rights;
    }
}
