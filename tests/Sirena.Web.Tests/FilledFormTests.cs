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

    // The last of some elements with its attributes, as a page writes them: looked at all together, then filled anew.
    private static TagHelperAttributeList Filled(FilledForm? form, params (string Name, string Value)[][] elements)
    {
        var items = new Dictionary<object, object>();
        if (form is not null)
        {
            items[typeof(FilledForm)] = form;
        }

        var last = new TagHelperAttributeList();
        for (var pass = 0; pass < 2; pass++)
        {
            foreach (var element in elements)
            {
                last = [.. element.Select(a => new TagHelperAttribute(a.Name, a.Value))];
                var output = new TagHelperOutput("input", last, (_, _) => Task.FromResult<TagHelperContent>(new DefaultTagHelperContent()));
                new FilledInputTagHelper().Process(new TagHelperContext(last, items, "1"), output);
                last = output.Attributes;
            }

            form?.Fill();
        }

        return last;
    }

    private static string? Value(FilledForm? form, params (string Name, string Value)[][] elements) => Filled(form, elements)["value"]?.Value?.ToString();

    private static (string Name, string Value)[] Text(string name, string value = "own") => [("name", name), ("value", value)];

    private static (string Name, string Value)[] Unseen(string name, string value) => [("type", "hidden"), ("name", name), ("value", value)];

    [Fact]
    public void A_field_has_what_was_typed_and_another_form_keeps_its_own()
    {
        Assert.Equal("  Never ", Value(Posted(("name", ["  Never "])), Text("name")));
        Assert.Equal("", Value(Posted(("empty", [""])), Text("empty")));
        Assert.Equal("own", Value(Posted(("name", ["typed"])), Text("other"), Text("name")));
        Assert.Equal("own", Value(null, Text("name")));
    }

    [Theory]
    [InlineData("password")]
    [InlineData("file")]
    [InlineData("submit")]
    public void No_secret_and_no_file_is_sent_back(string type) =>
        Assert.Equal("own", Value(Posted(("x", ["typed"])), [("type", type), ("name", "x"), ("value", "own")]));

    [Fact]
    public void A_code_that_was_wrong_is_typed_anew() =>
        Assert.Null(Value(Posted(("code", ["000000"])), [("name", "code"), ("autocomplete", "one-time-code")]));

    [Fact]
    public void Boxes_are_ticked_as_they_were_also_those_that_were_not()
    {
        (string, string)[] Box(string name, string value) => [("type", "checkbox"), ("name", name), ("value", value), ("checked", "checked")];
        bool Ticked(string name, string value) =>
            Filled(Posted(("days", ["Monday", "Friday"])), Box("days", "Monday"), Box(name, value)).ContainsName("checked");
        Assert.Equal([true, false, true], new[] { "Monday", "Tuesday", "Friday" }.Select(d => Ticked("days", d)));
        Assert.False(Ticked("all", "true"));
        Assert.True(Filled(Posted(("on", ["on"])), [("type", "checkbox"), ("name", "on")]).ContainsName("checked"));
    }

    // Each row of a list has such a form, with its place in a field that nobody sees, and a new row one without.
    [Fact]
    public void Of_many_forms_to_one_handler_only_the_one_that_was_sent_is_filled()
    {
        FilledForm Row() => Posted(("__token", ["x"]), (SavedThings.Field, ["7"]), ("id", ["2"]), ("name", ["typed"]));
        FilledForm Made() => Posted(("__token", ["x"]), ("name", ["typed"]));
        Assert.Equal(["own", "typed", "own"], new[] { "1", "2", "3" }.Select(id => Value(Row(), Unseen("id", id), Text("name"))));
        Assert.Equal("own", Value(Row(), Text("name")));
        Assert.Equal("own", Value(Made(), Unseen("id", "2"), Text("name")));
        Assert.Equal("typed", Value(Made(), Text("name")));

        // The place may also stand behind what is typed.
        Assert.Equal("own", Filled(Row(), Text("name"), Unseen("id", "3"), Text("name"))["value"]?.Value?.ToString());
    }
}
