using Microsoft.AspNetCore.Mvc.Filters;
using Microsoft.AspNetCore.Mvc.Rendering;
using Microsoft.AspNetCore.Mvc.ViewFeatures;
using Microsoft.AspNetCore.Razor.TagHelpers;
using Microsoft.EntityFrameworkCore;
using Npgsql;
using Sirena.Storage;
using Sirena.Storage.Access;
using Sirena.Web.Access;

namespace Sirena.Web.Pages.Shared;

/// <summary>Marks a handler that changes nothing of the page's thing: it may be sent from a page that is not the newest.</summary>
[AttributeUsage(AttributeTargets.Method)]
public sealed class SavesNothingAttribute : Attribute;

/// <summary>
/// The version of a saved thing is the number of its newest entry in the audit log. A page's forms carry it; while a form is saved the thing is held by
/// a <see cref="SessionLock"/>, so that of two people only one is first.
/// </summary>
public sealed class SavedThings : IAsyncDisposable
{
    /// <summary>The field of a form that says which version it was drawn from.</summary>
    public const string Field = "drawn-from";

    private const string Item = "Sirena.DrawnFrom";
    private const int MostShown = 5;

    // Each that holds a thing, or waits for it, has a line to the database; a crowd of them must leave lines for the work that they hold it for.
    private static readonly SemaphoreSlim Lines = new(16);
    private IAsyncDisposable? holding;

    private SavedThings() { }

    /// <summary>What was saved since the form was drawn, newest first; empty when nothing was.</summary>
    public IReadOnlyList<AuditEntry> Since { get; private set; } = [];

    /// <summary>The version that forms of this answer are drawn from, or <see langword="null"/>.</summary>
    public static long? DrawnFrom(HttpContext http) => http.Items[Item] as long?;

    /// <summary>Holds a saved thing while it is saved, by a page or by a call.</summary>
    public static async Task<IAsyncDisposable> LockAsync(NpgsqlDataSource database, string thing, CancellationToken cancel)
    {
        await Lines.WaitAsync(cancel);
        try
        {
            return new Held(await SessionLock.TakeAsync(database, $"saving {thing}", cancel));
        }
        catch
        {
            Lines.Release();
            throw;
        }
    }

    /// <summary>Notes the version of a page that is shown; holds the thing of a form that is saved, and says what overtook it.</summary>
    public static async Task<SavedThings> HoldAsync(string? thing, PageHandlerExecutingContext context, IDbContextFactory<SirenaDb> factory)
    {
        var (held, http) = (new SavedThings(), context.HttpContext);
        if (thing is null)
        {
            return held;
        }

        if (!HttpMethods.IsPost(http.Request.Method))
        {
            await using var db = await factory.CreateDbContextAsync(http.RequestAborted);
            http.Items[Item] = await db.Audit.Where(e => e.Thing == thing).MaxAsync(e => (long?)e.Id, http.RequestAborted) ?? 0;
            return held;
        }

        if (!long.TryParse(http.Request.HasFormContentType ? http.Request.Form[Field].FirstOrDefault() : null, out var from))
        {
            return held;
        }

        http.Items[Item] = from;
        if (context.HandlerMethod?.MethodInfo.IsDefined(typeof(SavesNothingAttribute), false) == true)
        {
            return held;
        }

        var database = http.RequestServices.GetRequiredService<NpgsqlDataSource>();
        held.holding = await LockAsync(database, thing, http.RequestAborted);
        await using var audit = await factory.CreateDbContextAsync(http.RequestAborted);
        held.Since = await audit
            .Audit.AsNoTracking()
            .Where(e => e.Thing == thing && e.Id > from)
            .OrderByDescending(e => e.Id)
            .Take(MostShown)
            .ToListAsync(http.RequestAborted);
        return held;
    }

    private sealed class Held(SessionLock inner) : IAsyncDisposable
    {
        public async ValueTask DisposeAsync()
        {
            try
            {
                await inner.DisposeAsync();
            }
            finally
            {
                Lines.Release();
            }
        }
    }

    /// <summary>Lets it go.</summary>
    public async ValueTask DisposeAsync()
    {
        if (holding is not null)
        {
            await holding.DisposeAsync();
        }
    }
}

/// <summary>What somebody saved while a form was being filled in, and that form.</summary>
/// <param name="Since">What was saved, newest first.</param>
/// <param name="Form">The form that was not.</param>
public sealed record Meanwhile(IReadOnlyList<AuditEntry> Since, KeptForm Form)
{
    /// <summary>Of a request that is refused.</summary>
    public static async Task<Meanwhile> OfAsync(IReadOnlyList<AuditEntry> since, HttpRequest request)
    {
        var form = await KeptForms.ReadAsync(request.Path + request.QueryString, request);
        return new Meanwhile(since, form with { Fields = [.. form.Fields.Where(f => f.Key != SavedThings.Field)] });
    }
}

/// <summary>Puts the version that it was drawn from into each form that is posted.</summary>
[HtmlTargetElement("form", Attributes = "method")]
public sealed class DrawnFromTagHelper : TagHelper
{
    /// <summary>Where it stands.</summary>
    [ViewContext]
    [HtmlAttributeNotBound]
    public ViewContext ViewContext { get; set; } = null!;

    /// <inheritdoc/>
    public override void Process(TagHelperContext context, TagHelperOutput output)
    {
        if (output.Attributes["method"]?.Value?.ToString() is "post" && SavedThings.DrawnFrom(ViewContext.HttpContext) is { } from)
        {
            output.PostContent.AppendHtml($"<input type=\"hidden\" name=\"{SavedThings.Field}\" value=\"{from}\">");
        }
    }
}
