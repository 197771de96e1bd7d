using Microsoft.AspNetCore.Http;
using Microsoft.AspNetCore.Razor.TagHelpers;
using Microsoft.Extensions.Primitives;
using Sirena.Web.Pages.Shared;

namespace Sirena.Web.Tests;

/// <summary>A form that was refused stands again as it was filled in: which form, and what of it.</summary>
public sealed class FilledFormTests
{
    private static FilledForm Posted(params (string Name, string[] Values)[] fields) =>
        new(new FormCollection(fields.ToDictionary(f => f.Name, f => new StringValues(f.Values))));

    // An element with its attributes, as a page writes it, filled anew.
    private static TagHelperAttributeList Filled(FilledForm? form, params (string Name, string Value)[] attributes)
    {
        var list = new TagHelperAttributeList(attributes.Select(a => new TagHelperAttribute(a.Name, a.Value)));
        var items = new Dictionary<object, object>();
        if (form is not null)
        {
            items[typeof(FilledForm)] = form;
        }

        var output = new TagHelperOutput("input", list, (_, _) => Task.FromResult<TagHelperContent>(new DefaultTagHelperContent()));
        new FilledInputTagHelper().Process(new TagHelperContext(list, items, "1"), output);
        return output.Attributes;
    }

    private static string? Value(FilledForm? form, params (string Name, string Value)[] attributes) => Filled(form, attributes)["value"]?.Value?.ToString();

    [Fact]
    public void A_field_has_what_was_typed_and_another_form_keeps_its_own()
    {
        var form = Posted(("name", ["  Never "]), ("empty", [""]));
        Assert.Equal("  Never ", Value(form, ("name", "name"), ("value", "before")));
        Assert.Equal("", Value(form, ("name", "empty"), ("value", "before")));
        Assert.Equal("before", Value(form, ("name", "other"), ("value", "before")));
        Assert.Equal("before", Value(null, ("name", "name"), ("value", "before")));
    }

    [Theory]
    [InlineData("password")]
    [InlineData("file")]
    [InlineData("submit")]
    [InlineData("hidden")]
    public void No_secret_no_file_and_nothing_unseen_is_sent_back(string type) =>
        Assert.Equal("own", Value(Posted(("x", ["typed"])), ("type", type), ("name", "x"), ("value", "own")));

    [Fact]
    public void A_code_that_was_wrong_is_typed_anew() => Assert.Null(Value(Posted(("code", ["000000"])), ("name", "code"), ("autocomplete", "one-time-code")));

    [Fact]
    public void Boxes_are_ticked_as_they_were_also_those_that_were_not()
    {
        var form = Posted(("days", ["Monday", "Friday"]));
        bool Ticked(string name, string value) =>
            Filled(form, ("type", "checkbox"), ("name", name), ("value", value), ("checked", "checked")).ContainsName("checked");
        Assert.Equal([true, false, true], new[] { "Monday", "Tuesday", "Friday" }.Select(d => Ticked("days", d)));
        Assert.False(Ticked("all", "true"));
        Assert.True(Filled(Posted(("on", ["on"])), ("type", "checkbox"), ("name", "on")).ContainsName("checked"));
    }

    // Each row of a list has such a form, with its place in a field that nobody sees.
    [Fact]
    public void Of_many_rows_only_the_one_that_was_sent_is_filled()
    {
        string? Row(string index)
        {
            var form = Posted(("index", ["2"]), ("name", ["typed"]), ("note", ["typed"]));
            Filled(form, ("type", "hidden"), ("name", "index"), ("value", index));
            Filled(form, ("type", "hidden"), ("name", "never-sent"), ("value", "x"));
            return Value(form, ("name", "name"), ("value", "own"));
        }

        Assert.Equal(["own", "typed", "own"], new[] { "1", "2", "3" }.Select(Row));
    }
}
