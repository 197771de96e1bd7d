using System.Text;
using Microsoft.AspNetCore.Http;
using Microsoft.AspNetCore.Mvc;
using Microsoft.AspNetCore.Mvc.Abstractions;
using Microsoft.AspNetCore.Mvc.Filters;
using Microsoft.AspNetCore.Mvc.RazorPages;
using Microsoft.AspNetCore.Routing;
using Microsoft.Extensions.Primitives;
using Sirena.Web.Pages.Shared;

namespace Sirena.Web.Tests;

/// <summary>A form that was refused stands again as it was filled in: which form, and what of it.</summary>
public sealed class FilledFormTests
{
    private static FormCollection Posted(params (string Name, string[] Values)[] fields) =>
        new(fields.ToDictionary(f => f.Name, f => new StringValues(f.Values)));

    private static string Filled(FormCollection posted, string fields, string address = "/settings/hours?handler=Add") =>
        FilledForm.Fill($"<form method=\"post\" action=\"/settings/hours?handler=Add\">{fields}</form>", address, posted);

    private static void Becomes(FormCollection posted, string fields, string filled) =>
        Assert.Equal($"<form method=\"post\" action=\"/settings/hours?handler=Add\">{filled}</form>", Filled(posted, fields));

    [Theory]
    [InlineData("<input name=\"x\" value=\"own\">", "<input name=\"x\" value=\"  Never \">")]
    [InlineData("<input name=\"x\" type=\"email\">", "<input name=\"x\" type=\"email\" value=\"  Never \">")]
    [InlineData("<textarea name=\"x\">own</textarea>", "<textarea name=\"x\">  Never </textarea>")]
    [InlineData(
        "<select name=\"x\"><option selected>own</option><option value=\"  Never \">N</option></select>",
        "<select name=\"x\"><option>own</option><option value=\"  Never \" selected=\"\">N</option></select>"
    )]
    [InlineData("<input name=\"x\" type=\"password\">", "<input name=\"x\" type=\"password\">")]
    [InlineData("<input name=\"x\" type=\"file\">", "<input name=\"x\" type=\"file\">")]
    [InlineData("<input name=\"x\" type=\"submit\" value=\"own\">", "<input name=\"x\" type=\"submit\" value=\"own\">")]
    [InlineData("<input name=\"x\" autocomplete=\"one-time-code\">", "<input name=\"x\" autocomplete=\"one-time-code\">")]
    public void A_field_has_what_was_typed_but_no_secret_file_or_code_that_works_once(string field, string filled) =>
        Becomes(Posted(("x", ["  Never "])), field, filled);

    [Theory]
    [InlineData("day", "2027-05-03", "Mon 3 May 2027")]
    [InlineData("day", "on monday", "on monday")]
    [InlineData("time", "25:00", "25:00")]
    public void A_day_is_written_for_people_and_what_is_none_stays_as_it_was_typed(string kind, string typed, string shown) =>
        Becomes(Posted(("x", [typed])), $"<input name=\"x\" data-when=\"{kind}\">", $"<input name=\"x\" data-when=\"{kind}\" value=\"{shown}\">");

    [Fact]
    public void A_field_that_was_sent_empty_is_empty() =>
        Becomes(
            Posted(("x", [""])),
            "<input name=\"x\" value=\"own\"><input name=\"y\" type=\"submit\">",
            "<input name=\"x\" value=\"\"><input name=\"y\" type=\"submit\">"
        );

    [Fact]
    public async Task A_page_that_breaks_while_it_is_drawn_leaves_nothing_in_the_answer_and_one_that_does_not_has_its_length()
    {
        async Task<(string Body, long? Length)> DrawnAsync(string page, Exception? fault)
        {
            var http = new DefaultHttpContext { Request = { Method = "POST", ContentType = "application/x-www-form-urlencoded" } };
            http.Request.Form = Posted(("name", ["typed"]));
            var body = new MemoryStream();
            (http.Response.Body, http.Response.StatusCode) = (body, StatusCodes.Status422UnprocessableEntity);
            var action = new ActionContext(http, new RouteData(), new ActionDescriptor());
            await new FilledForm().OnResultExecutionAsync(new ResultExecutingContext(action, [], new PageResult(), this), async () =>
            {
                (http.Response.ContentType, http.Response.ContentLength) = ("text/html; charset=utf-8", page.Length);
                await http.Response.WriteAsync(page, TestContext.Current.CancellationToken);
                return new ResultExecutedContext(action, [], new PageResult(), this) { Exception = fault };
            });
            return (Encoding.UTF8.GetString(body.ToArray()), http.Response.ContentLength);
        }

        const string Form = "<form><input name=\"name\"></form>";
        var filled = Form.Replace("\"name\">", "\"name\" value=\"typed\">", StringComparison.Ordinal);
        Assert.Equal((filled, filled.Length), await DrawnAsync(Form, null));
        Assert.Empty((await DrawnAsync(Form, new InvalidOperationException("half of it"))).Body);
    }

    [Fact]
    public void Boxes_are_ticked_as_they_were_also_those_that_were_not() =>
        Becomes(
            Posted(("days", ["Monday", "Friday"]), ("how", ["b"]), ("on", ["on"])),
            "<input type=\"checkbox\" name=\"days\" value=\"Monday\"><input type=\"checkbox\" name=\"days\" value=\"Tuesday\" checked><input type=\"checkbox\" name=\"on\"><input type=\"checkbox\" name=\"all\" value=\"true\" checked><input type=\"radio\" name=\"how\" value=\"a\" checked><input type=\"radio\" name=\"how\" value=\"b\">",
            "<input type=\"checkbox\" name=\"days\" value=\"Monday\" checked=\"\"><input type=\"checkbox\" name=\"days\" value=\"Tuesday\"><input type=\"checkbox\" name=\"on\" checked=\"\"><input type=\"checkbox\" name=\"all\" value=\"true\"><input type=\"radio\" name=\"how\" value=\"a\"><input type=\"radio\" name=\"how\" value=\"b\" checked=\"\">"
        );

    // Each row of a list has such a form, with its place in a field that nobody sees, and a new row one without.
    [Theory]
    [InlineData("1", false)]
    [InlineData("2", true)]
    [InlineData("3", false)]
    [InlineData(null, false)]
    public void Of_many_forms_to_one_handler_only_the_one_that_was_sent_is_filled(string? place, bool filled)
    {
        var row = Posted(("__token", ["x"]), (SavedThings.Field, ["7"]), ("id", ["2"]), ("name", ["typed"]));
        var hidden = place is null ? "" : $"<input type=\"hidden\" name=\"id\" value=\"{place}\">";
        Assert.Equal(filled, Filled(row, $"{hidden}<input name=\"name\">").Contains("typed", StringComparison.Ordinal));

        // The place may also stand behind what is typed.
        Assert.Equal(filled, Filled(row, $"<input name=\"name\">{hidden}").Contains("typed", StringComparison.Ordinal));
        var made = Posted(("__token", ["x"]), ("name", ["typed"]));
        Assert.Equal(place is null, Filled(made, $"{hidden}<input name=\"name\">").Contains("typed", StringComparison.Ordinal));
        Assert.DoesNotContain("typed", Filled(made, "<input name=\"name\"><input name=\"more\">"), StringComparison.Ordinal);
        Assert.Contains("typed", Filled(made, "<input name=\"name\"><input name=\"more\" disabled><button name=\"act\">Go</button>"), StringComparison.Ordinal);
    }

    [Theory]
    [InlineData("/settings/hours?handler=add", true)]
    [InlineData("/Settings/hours?handler=Add&id=7", true)]
    [InlineData("/settings/hours?handler=Remove", false)]
    [InlineData("/settings/hours", false)]
    [InlineData("/settings/holidays?handler=Add", false)]
    public void A_form_to_elsewhere_is_another(string address, bool filled) =>
        Assert.Equal(filled, Filled(Posted(("name", ["typed"])), "<input name=\"name\">", address).Contains("typed", StringComparison.Ordinal));

    [Fact]
    public void It_lies_in_no_part_that_is_shut_and_a_page_without_it_stays_as_it_is()
    {
        const string Page =
            "<!DOCTYPE html><html><head></head><body><details><summary>More</summary><details><form method=\"post\"><input name=\"name\"></form></details></details><details></details></body></html>";
        Assert.Equal(
            Page.Replace("<details><summary>", "<details open=\"\"><summary>", StringComparison.Ordinal)
                .Replace("<details><form", "<details open=\"\"><form", StringComparison.Ordinal)
                .Replace("<input name=\"name\">", "<input name=\"name\" value=\"typed\">", StringComparison.Ordinal),
            FilledForm.Fill(Page, "/statuses", Posted(("name", ["typed"])))
        );
        Assert.Same(Page, FilledForm.Fill(Page, "/statuses", Posted(("other", ["typed"]))));
    }

    [Fact]
    public void The_rows_of_a_table_may_stand_alone() =>
        Assert.Equal(
            "<tr><td><form><input name=\"name\" value=\"typed\"></form></td></tr>",
            FilledForm.Fill("<tr><td><form><input name=\"name\"></form></td></tr>", "/statuses", Posted(("name", ["typed"])))
        );
}
