using System.Text;
using System.Text.Json.Nodes;
using NodaTime;
using NodaTime.Text;
using Sirena.Core.Instructions;
using Sirena.Engine.Intake;

namespace Sirena.Engine.Instructions;

public sealed partial class InstructionWorker
{
    /// <summary>An instruction as the order system reads it: a CloudEvent, structured.</summary>
    /// <param name="instruction">The instruction.</param>
    /// <param name="taking">Its source.</param>
    /// <param name="known">The time of the order's newest event that is known, or <see langword="null"/> for none.</param>
    /// <param name="now">The moment.</param>
    public static byte[] Body(Instruction instruction, TakingSource taking, Instant? known, Instant now)
    {
        var number = NumberThere(instruction, taking);
        var data = new JsonObject
        {
            ["instruction"] = new JsonObject
            {
                ["id"] = instruction.Id.ToString(),
                ["kind"] = instruction.Kind,
                ["with"] = instruction.Members,
            },
            ["order"] = number is null
                ? null
                : new JsonObject { ["number"] = number, ["time"] = known is { } time ? InstantPattern.ExtendedIso.Format(time) : null },
            ["by"] = instruction.By,
            ["because"] = instruction.Because,
        };
        if (instruction.Tell is { } tell)
        {
            data["tell"] = new JsonObject
            {
                ["customer"] = tell.Customer,
                ["staff"] = tell.Staff,
                ["by"] = tell.By,
            };
        }

        var body = new JsonObject
        {
            ["specversion"] = "1.0",
            ["id"] = instruction.Id.ToString(),
            ["source"] = OwnEvents.Source,
            ["type"] = "instruction." + instruction.Kind,
            ["subject"] = number ?? taking.Source.Id,
            ["time"] = InstantPattern.ExtendedIso.Format(now),
            ["datacontenttype"] = "application/json",
            ["data"] = data,
        };
        return Encoding.UTF8.GetBytes(body.ToJsonString(Readable));
    }

    /// <summary>The order's number as its source knows it, without the prefix.</summary>
    public static string? NumberThere(Instruction instruction, TakingSource taking) =>
        instruction.OrderNumber is { } order && taking.Source.Prefix.Length > 0 && order.StartsWith(taking.Source.Prefix, StringComparison.Ordinal)
            ? order[taking.Source.Prefix.Length..]
            : instruction.OrderNumber;
}
