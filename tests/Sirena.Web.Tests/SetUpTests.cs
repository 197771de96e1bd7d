using System.Net;
using Sirena.Storage.Access;

namespace Sirena.Web.Tests;

public sealed class SetUpTests(WorldFixture world) : IClassFixture<WorldFixture>
{
    [Fact]
    public async Task On_an_empty_database_the_printed_link_makes_the_first_supervisor_once()
    {
        await world.World.ExecuteAsync("delete from api_tokens; delete from users");
        await world.World.ExecuteAsync("insert into one_time_links (hash, expires_at) values (sha256('set-up-test'), now() + interval '1 hour')");
        using var http = new HttpClient(new HttpClientHandler { CookieContainer = new CookieContainer() });
        var form = await http.GetStringAsync(world.Url + "/set-up/set-up-test", TestContext.Current.CancellationToken);
        var token = Shots.World.FormToken(form);
        var fields = new Dictionary<string, string>
        {
            ["Business"] = "Averil Quay",
            ["Name"] = "Maren Holt",
            ["Email"] = "maren@a.example",
            ["Password"] = "short",
            ["Zone"] = "Atlantic/Madeira",
            ["__RequestVerificationToken"] = token,
        };
        Assert.Equal(
            HttpStatusCode.UnprocessableEntity,
            (await http.PostAsync(world.Url + "/set-up/set-up-test", new FormUrlEncodedContent(fields), TestContext.Current.CancellationToken)).StatusCode
        );
        fields["Password"] = "long enough by far";
        var done = await http.PostAsync(world.Url + "/set-up/set-up-test", new FormUrlEncodedContent(fields), TestContext.Current.CancellationToken);
        Assert.Equal("/first-day", done.RequestMessage!.RequestUri!.AbsolutePath);
        Assert.Equal(HttpStatusCode.NotFound, (await world.SendAsync(HttpMethod.Get, "/set-up/set-up-test", null)).Status);
        await world.World.UntilAsync($"select count(*) = 1 from users where role = '{Core.Names.Name(Role.Supervisor)}'", 1);
        await world.World.UntilAsync("select document->>'name' = 'Trouble' from rule_versions where rule_id = 'trouble' order by version desc limit 1", 5);
    }
}
