using System.Text.Json.Nodes;
using Microsoft.AspNetCore.Http;
using Microsoft.EntityFrameworkCore;
using Microsoft.Extensions.DependencyInjection;
using NodaTime;
using Sirena.Core.Instructions;
using Sirena.Core.Orders;
using Sirena.Engine.Instructions;
using Sirena.Engine.Intake;
using Sirena.Engine.Sources;
using Sirena.Formats.Documents;
using Sirena.Storage.Orders;

namespace Sirena.Engine.Tests;

/// <summary>An order system over real HTTP, and what is asked of it.</summary>
public abstract class InstructionCase(DeskFixture desk) : IClassFixture<DeskFixture>
{
    protected DeskFixture Quay { get; } = desk;

    protected const string Key = "a-key-that-signs-instructions";
    protected static readonly Asker Maren = new("maren.holt", "Maren Holt", "supervisor");

    protected InstructionDesk Desk => Quay.Services.GetRequiredService<InstructionDesk>();

    protected async Task<string> SourceAsync(
        FarEnd? far,
        string takes = "\"hold\", \"release\", \"cancel\", \"capture\", \"refund\", \"status\", \"tag\", \"note\", \"assign\"",
        string more = ""
    )
    {
        var id = $"os-{Guid.NewGuid():N}"[..20];
        var (node, _) = DocumentText.Read(
            $$"""{ "kind": "events", "takes": [ {{takes}} ], "instructionsTo": "{{far?.Url}}", "instructionsSecret": "{{Key}}"{{more}} }""",
            yaml: false
        );
        var saved = await Quay.Services.GetRequiredService<SourceDesk>().SaveAsync(id, node!, "the test", TestContext.Current.CancellationToken);
        Assert.True(saved.Source is not null, string.Join("; ", saved.Errors.Select(e => $"{e.Path} {e.Problem}")));
        return id;
    }

    protected Task SayAsync(string source, string type, string number, string order, string beside = "") =>
        Quay
            .Services.GetRequiredService<IntakeDesk>()
            .TakeAsync(
                [
                    new Arrival(
                        new IncomingEvent(
                            Guid.NewGuid().ToString(),
                            "/" + source,
                            type,
                            number,
                            null,
                            (JsonObject)JsonNode.Parse($$"""{ "order": { "number": "{{number}}"{{order}} }{{beside}} }""")!
                        ),
                        "",
                        SystemClock.Instance.GetCurrentInstant()
                    )
                    {
                        By = source,
                    },
                ],
                TestContext.Current.CancellationToken
            );

    protected Task<WishEnd> AskAsync(string number, string kind, string members = "{}", Asker? by = null, TellChoice? tell = null) =>
        Desk.AskAsync(
            new InstructionWish(kind, (MapNode)DocumentText.Read(members, yaml: false).Node!, [], by ?? Maren) { Order = number, Tell = tell },
            TestContext.Current.CancellationToken
        );

    protected Task<Instruction> UntilAsync(Guid id, InstructionState state, int seconds = 40) =>
        Quay.UntilAsync(
            db => db.Instructions.AsNoTracking().FirstAsync(i => i.Id == id),
            found => found.State == state,
            found => $"it is not {state} but {found.State}, {found.Words}",
            seconds
        );

    protected Task<List<Instruction>> OfAsync(string number, Func<List<Instruction>, bool> until) =>
        Quay.UntilAsync(
            db => db.Instructions.AsNoTracking().Where(i => i.OrderNumber == number).OrderBy(i => i.Seq).ToListAsync(),
            until,
            found => string.Join("; ", found.Select(i => $"{i.Kind} {i.State} {i.Waits} {i.Words}"))
        );

    protected Task<List<OrderEvent>> EventsAsync(string number, string type, int count = 1) =>
        Quay.UntilAsync(
            db => db.Events.AsNoTracking().Where(e => e.OrderNumber == number && e.Type == type && e.DecidedAt != null).OrderBy(e => e.Id).ToListAsync(),
            found => found.Count >= count,
            _ => $"{type} of {number} did not come"
        );

    protected static Task<FarEnd> SystemAsync(int status = 202, string body = """{ "state": "taken", "words": "accepted, 7" }""") =>
        FarEnd.StartAsync(http =>
        {
            http.Response.StatusCode = status;
            return http.Response.WriteAsync(body);
        });
}
