using System.Net;
using System.Text.RegularExpressions;
using OpenQA.Selenium;
using Sirena.Demo.StandIns;

namespace Sirena.Web.Tests;

/// <summary>Who may come in, in the browser: tokens, invitations, roles, a password that was forgotten.</summary>
public sealed class AccessPagesTests(WorldFixture world) : BrowserTests(world)
{
    private static CancellationToken Cancel => TestContext.Current.CancellationToken;

    private IWebElement RowOf(string name) =>
        Browser.FindElements(By.CssSelector("tbody tr")).FirstOrDefault(r => r.Text.Contains(name, StringComparison.Ordinal))
        ?? throw new NoSuchElementException($"No row says {name}.");

    private string Row(string name) => Steady(() => RowOf(name).Text);

    private IWebElement InRow(string name, string selector) => RowOf(name).FindElement(By.CssSelector(selector));

    private Task<long> CountAsync(string sql) => World.World.CountAsync(sql);

    private void Confirm(string name, string button)
    {
        Until(
            () =>
            {
                InRow(name, $"button[data-ask^='{button}']").Click();
                return true;
            },
            $"{name} has no button '{button}'"
        );
        Browser.SwitchTo().Alert().Accept();
    }

    private void Invite(string name, string email, string role = "staff")
    {
        Go("/settings/users");
        Type("#Name", name);
        Type("#Email", email);
        Choose($"#Role option[value={role}]");
        Choose("form[action*=Invite] .btn-primary");
        Says($"An invitation is on its way to {email}");
    }

    private string LinkTo(string email)
    {
        var link = "";
        Until(
            () =>
                (
                    link = World
                        .World.StandIns.Mail.Mails.LastOrDefault(m => m.To == email)
                        ?.Text.Split('\n')
                        .FirstOrDefault(l => l.Contains("/password?"))
                        ?.Trim()
                        ?? ""
                ).Length > 0,
            $"A link came to {email}"
        );
        return link;
    }

    private void SetPassword(string link, string password)
    {
        Open(link);
        Type("#Password", password);
        Choose("form .btn-primary");
    }

    private static async Task<(HttpStatusCode Status, string Page)> PostAsync(
        HttpClient client,
        string url,
        string form,
        params (string Name, string Value)[] fields
    )
    {
        using var answer = await client.PostAsync(
            url,
            new FormUrlEncodedContent([.. fields.Select(f => KeyValuePair.Create(f.Name, f.Value)), new("__RequestVerificationToken", form)]),
            Cancel
        );
        return (answer.StatusCode, await answer.Content.ReadAsStringAsync(Cancel));
    }

    [Fact]
    public async Task A_token_is_shown_once_and_works_until_it_is_revoked()
    {
        Go("/settings/tokens");
        Type("#Name", "The till's program");
        Choose("form[action*=Make] .btn-primary");
        Until(() => TextOf(By.Id("secret")).StartsWith("pt-", StringComparison.Ordinal), "The token is shown");
        var token = TextOf(By.Id("secret"));
        Assert.Equal(HttpStatusCode.OK, (await World.SendAsync(HttpMethod.Get, "/api/rules", token)).Status);
        Go("/settings/tokens");
        Says("The till's program");
        Assert.DoesNotContain(token, Browser.PageSource);
        Confirm("The till's program", "Revoke");
        Until(() => Row("The till's program").Contains("revoked", StringComparison.Ordinal), "It says since when it is revoked");
        Assert.Equal(HttpStatusCode.Unauthorized, (await World.SendAsync(HttpMethod.Get, "/api/rules", token)).Status);
        NoSeriousFault();
    }

    [Theory]
    [InlineData("")]
    [InlineData("   ")]
    [InlineData("two\nlines")]
    [InlineData("81")]
    public async Task What_a_token_is_for_is_said_in_one_line(string name)
    {
        var (client, form) = await World.SignInAsync(0);
        var before = await CountAsync("select count(*) from api_tokens");
        var (status, page) = await PostAsync(client, Url + "/settings/tokens?handler=Make", form, ("Name", name == "81" ? new string('x', 81) : name));
        Assert.Equal(HttpStatusCode.UnprocessableEntity, status);
        Assert.Contains("Say in one line of at most 80 characters what it is for", page, StringComparison.Ordinal);
        Assert.Equal(before, await CountAsync("select count(*) from api_tokens"));
        client.Dispose();
    }

    [Fact]
    public void An_invitation_is_taken_back_and_its_link_opens_nothing()
    {
        Invite("Wrong Address", "wrong.address@averilquay.example", "supervisor");
        var link = LinkTo("wrong.address@averilquay.example");
        Assert.Contains("invited", Row("Wrong Address"), StringComparison.Ordinal);
        Confirm("Wrong Address", "Take the invitation");
        Says("The invitation of Wrong Address is taken back");
        Assert.Contains("removed", Row("Wrong Address"), StringComparison.Ordinal);
        SignOut();
        SetPassword(link, "harbour crane 42");
        Until(() => TextOf(By.Id("problem")).Contains("used already, or is older than a day", StringComparison.Ordinal), "The link is refused");
    }

    // Addresses hold more signs than letters, digits and points (RFC 5321), and letters of any language (RFC 6531).
    [Theory]
    [InlineData("o'brien@averilquay.example")]
    [InlineData("till+night/desk@averilquay.example")]
    [InlineData("joão.sá@averilquay.example")]
    public void Whoever_has_an_unusual_address_comes_in_as_well(string email)
    {
        Go("/settings/users");
        Type("#Name", $"Guest {email[..4]}");
        Browser.ExecuteScript("document.getElementById('Email').type = 'text'");
        Type("#Email", email);
        Choose("form[action*=Invite] .btn-primary");
        Says($"An invitation is on its way to {email}");
        var link = LinkTo(email);
        SignOut();
        SetPassword(link, "harbour crane 42");
        Until(() => new Uri(Browser.Url).AbsolutePath == "/orders", "They are signed in");
    }

    [Fact]
    public async Task A_role_that_changes_ends_the_sessions_that_had_the_other()
    {
        Invite("Noa Pires", "noa.pires@averilquay.example", "reader");
        var link = LinkTo("noa.pires@averilquay.example");
        SignOut();
        SetPassword(link, "harbour crane 42");
        Until(() => new Uri(Browser.Url).AbsolutePath == "/orders", "They are signed in");
        Go("/rules");
        Says("rules");
        const string Sessions = "select count(*) from sessions s join users u on u.id = s.user_id where u.name = 'Noa Pires'";
        Assert.Equal(1, await CountAsync(Sessions));

        SignIn(0);
        Go("/settings/users");
        InRow("Noa Pires", "select[name=may] option[value=staff]").Click();
        InRow("Noa Pires", "form[action*=Role] .btn").Click();
        Says("Noa Pires is staff from now on and signs in anew.");
        Assert.Equal(0, await CountAsync(Sessions));
        Assert.Equal(1, await CountAsync("select count(*) from audit where thing = 'users' and what like 'Noa Pires (%) is staff, was reader.'"));

        Assert.False(InRow("Noa Pires", "form[action*=Role] .btn").Displayed, "What is not changed has no button");
        Browser.ExecuteScript("arguments[0].requestSubmit()", InRow("Noa Pires", "form[action*=Role]"));
        Says("Noa Pires is staff already.");
        NoSeriousFault();
    }

    [Fact]
    public async Task The_only_supervisor_stays_one_though_another_is_invited()
    {
        Invite("Late Comer", "late.comer@averilquay.example", "supervisor");
        var me = World.World.Demo.Users[0].Name;
        Confirm(me, "Remove");
        Says($"{me} is the only supervisor who can sign in.");
        InRow(me, "select[name=may] option[value=reader]").Click();
        InRow(me, "form[action*=Role] .btn").Click();
        Says($"{me} is the only supervisor who can sign in.");
        Assert.Equal(1, await CountAsync($"select count(*) from users where name = '{me}' and role = 'supervisor' and removed_at is null"));
        Go("/settings/users");
        Confirm("Late Comer", "Take the invitation");
        Says("The invitation of Late Comer is taken back");
    }

    [Fact]
    public async Task Of_two_supervisors_who_remove_each_other_in_one_moment_one_stays()
    {
        await World.World.ExecuteAsync("update users set role = 'supervisor' where name in (select name from users where email like 'ines.calder@%')");
        try
        {
            var (first, firstForm) = await World.SignInAsync(0);
            var (second, secondForm) = await World.SignInAsync(1);
            async Task<string> IdAsync(int user) =>
                Regex
                    .Match(
                        await first.GetStringAsync(Url + "/settings/users", Cancel),
                        $"{Regex.Escape(World.World.Demo.Users[user].Email)}.*?name=\"id\" value=\"([^\"]+)\"",
                        RegexOptions.Singleline
                    )
                    .Groups[1]
                    .Value;
            var (one, other) = (await IdAsync(0), await IdAsync(1));
            var path = Url + "/settings/users?handler=Role";
            var both = await Task.WhenAll(
                PostAsync(first, path, firstForm, ("id", other), ("may", "staff")),
                PostAsync(second, path, secondForm, ("id", one), ("may", "staff"))
            );
            Assert.Equal(1, await CountAsync("select count(*) from users where role = 'supervisor' and removed_at is null and email_confirmed"));
            Assert.Single(both, a => a.Status == HttpStatusCode.Redirect);
            first.Dispose();
            second.Dispose();
        }
        finally
        {
            await World.World.ExecuteAsync(
                "update users set role = case when email like 'maren.holt@%' then 'supervisor' else 'staff' end "
                    + "where email like 'maren.holt@%' or email like 'ines.calder@%'"
            );
        }
    }

    [Fact]
    public async Task A_forgotten_password_is_set_anew_by_a_link_that_works_once()
    {
        SignIn(2);
        Go("/mine");
        var who = World.World.Demo.Users[2];
        using var elsewhere = (await World.SignInAsync(2)).Client;
        SignOut();
        Go("/forgot");
        Type("#Email", "nobody.here@averilquay.example");
        Choose("form .btn-primary");
        var unknown = "";
        Until(() => (unknown = TextOf(By.CssSelector(".said"))).Length > 0, "It is answered");
        Go("/forgot");
        Type("#Email", who.Email.ToUpperInvariant());
        Choose("form .btn-primary");
        Until(() => TextOf(By.CssSelector(".said")) == unknown, "A known address is answered in the same words");
        var link = LinkTo(who.Email);
        Assert.DoesNotContain(World.World.StandIns.Mail.Mails, m => m.To.StartsWith("nobody.here@", StringComparison.Ordinal));

        SetPassword(link, "short");
        Unchecked("#Password");
        Choose("form .btn-primary");
        Until(() => TextOf(By.Id("problem")).Contains("too short", StringComparison.Ordinal), "A short one is refused");
        Type("#Password", "gantry lantern 7");
        Choose("form .btn-primary");
        Until(() => new Uri(Browser.Url).AbsolutePath == "/orders", "The new one is set");
        using var ended = await elsewhere.GetAsync(Url + "/mine", Cancel);
        Assert.Equal(HttpStatusCode.Redirect, ended.StatusCode);

        SignOut();
        SetPassword(link, "gantry lantern 8");
        Until(() => TextOf(By.Id("problem")).Contains("used already", StringComparison.Ordinal), "The link works once");
        Shots.Browser.SignIn(Browser, Url, who.Email, "gantry lantern 7");
    }

    [Fact]
    public async Task A_mail_server_that_is_silent_does_not_tell_whether_an_address_is_known()
    {
        using var client = new HttpClient(new HttpClientHandler { AllowAutoRedirect = false });
        var form = Shots.World.FormToken(await client.GetStringAsync(Url + "/forgot", Cancel));
        World.World.StandIns.Faults.Add(new Fault("mail", "*", "slow", 0));
        try
        {
            var (status, page) = await PostAsync(client, Url + "/forgot", form, ("Email", World.World.Demo.Users[3].Email));
            Assert.Equal(HttpStatusCode.OK, status);
            Assert.Contains("If this address can sign in", page, StringComparison.Ordinal);
            Assert.DoesNotContain(World.World.StandIns.Mail.Mails, m => m.To == World.World.Demo.Users[3].Email && m.Subject == "Set a new password");
        }
        finally
        {
            World.World.StandIns.Faults.Clear();
        }
    }
}
