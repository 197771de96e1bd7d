using System.Text.Json;
using System.Text.Json.Nodes;
using Sirena.Core;
using Sirena.Core.Deliveries;
using Sirena.Core.Ladders;
using Sirena.Core.Rules;
using Sirena.Engine.Trail;
using Sirena.Formats.Rules;
using Sirena.Storage.Ladders;

namespace Sirena.Web.Api;

/// <summary>The API's answers as the contract shapes them.</summary>
public static class Shapes
{
    /// <summary>An order's trail.</summary>
    public static object Of(OrderTrail trail, IReadOnlyList<JsonObject>? instructions = null) =>
        new
        {
            order = Json(trail.Order?.Document),
            events = trail.Events.Select(Of),
            alerts = trail.Alerts.Select(Of),
            instructions = instructions ?? [],
        };

    /// <summary>An alert with its steps, deliveries and answers.</summary>
    public static object Of(AlertTrail trail) =>
        new
        {
            id = trail.Alert.Id,
            order = trail.Alert.OrderNumber,
            rule = trail.Alert.RuleId,
            version = trail.Alert.Version,
            @case = trail.Alert.Case,
            urgency = trail.Alert.Urgency.Name(),
            state = trail.Alert.State.Name(),
            raisedAt = trail.Alert.RaisedAt,
            endedAt = trail.Alert.EndedAt,
            takenBy = trail.Alert.TakenBy,
            steps = trail.Steps.Select(s => new
            {
                index = s.Index,
                dueAt = s.DueAt,
                firedAt = s.FiredAt,
                pulledForward = s.PulledForward,
                firedBecause = s.FiredAt is null ? null : s.Cause.Name(),
                told = Json(Resolved.Write(s.Told)),
                left = Json(Resolved.Write(s.Left)),
            }),
            deliveries = trail.Deliveries.Select(Of),
            answers = trail.Answers.Select(a => new
            {
                id = a.Id,
                person = a.Person,
                answer = a.Kind.Name(),
                at = a.At,
                via = a.Via,
                enteredBy = a.EnteredBy,
                note = a.Note,
            }),
        };

    /// <summary>A delivery with its tries and news.</summary>
    public static object Of(DeliveryTrail trail)
    {
        var d = trail.Delivery;
        return new
        {
            id = d.Id,
            alert = d.AlertId,
            order = d.OrderNumber,
            rule = d.RuleId,
            step = d.Step,
            to = d.To,
            person = d.Person,
            channel = d.Channel.Name(),
            state = d.Stands.Name(),
            reason = d.Reason ?? (d.TwiceAttempt is null ? null : Delivery.Twice),
            mayHaveArrivedTwice = d.TwiceAttempt is { } twice
                ? new
                {
                    attempt = twice,
                    at = trail.Attempts.FirstOrDefault(a => a.Number == twice)?.At,
                    gateway = trail.Attempts.FirstOrDefault(a => a.Number == twice)?.Gateway,
                }
                : null,
            createdAt = d.CreatedAt,
            dueAt = d.State == DeliveryState.Waiting ? d.DueAt : (NodaTime.Instant?)null,
            handedOverAt = d.HandedOverAt,
            landedAt = d.LandedAt,
            evidence = d.Evidence,
            carriedBy = d.CarriedBy,
            attempts = trail.Attempts.Select(a => new
            {
                at = a.At,
                endedAt = a.EndedAt,
                gateway = a.Gateway,
                outcome = a.Outcome.Name(),
                code = a.Code,
                reply = a.Reply,
            }),
            receipts = trail.Receipts.Select(r => new
            {
                at = r.At,
                kind = r.Kind,
                text = r.Text,
            }),
        };
    }

    /// <summary>A rule's document with its version, its sentence, and since when it is in force.</summary>
    public static JsonObject Of(RuleVersion version, Rule rule, RuleSentence sentences)
    {
        var document = RuleWriter.Write(rule);
        document["version"] = version.Version;
        document["sentence"] = sentences.Of(rule);
        document["inForceSince"] = NodaTime.Text.InstantPattern.ExtendedIso.Format(version.SavedAt);
        return document;
    }

    private static object Of(EventTrail trail) =>
        new
        {
            seq = trail.Event.Seq,
            id = trail.Event.EventId,
            source = trail.Event.Source,
            type = trail.Event.Type,
            subject = trail.Event.Subject,
            time = trail.Event.Time,
            received = trail.Event.Received,
            late = trail.Event.Late,
            fromTheFuture = trail.Event.FromTheFuture,
            decidedAt = trail.Event.DecidedAt,
            decidedLate = trail.Event.DecidedLate,
            setAsideAt = trail.Event.SetAsideAt,
            problem = trail.Event.Problem,
            cameBy = trail.Event.CameBy,
            causedBy = trail.Event.CausedBy,
            tell = trail.Event.Tell is { } tell
                ? new
                {
                    customer = tell.Customer,
                    staff = tell.Staff,
                    by = tell.By,
                }
                : null,
            data = Json(trail.Event.Data),
            rules = trail.Rules.Select(r => new
            {
                rule = r.Decision.Rule.Id,
                version = r.Decision.Version,
                outcome = r.Outcome.Name(),
                @case = r.Decision.Case?.Name,
                alert = r.Alert,
                conditions = r.Decision.Conditions.Select(c => new
                {
                    field = c.Field,
                    @is = c.Is.Name(),
                    wanted = Value(c.Wanted),
                    found = Value(c.Found),
                    holds = c.Holds,
                    problem = c.Problem,
                    @case = c.Case,
                }),
            }),
        };

    private static JsonElement? Value(JsonElement value) => value.ValueKind == JsonValueKind.Undefined ? null : value;

    private static JsonNode? Json(string? text) => text is null ? null : JsonNode.Parse(text);
}
