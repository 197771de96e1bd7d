using Sirena.Web;

var (settings, problem) = ServeSettings.Read(args);
if (settings is null)
{
    Console.Error.WriteLine(problem);
    return 2;
}

var app = SirenaApp.Build(args, settings);
await SirenaApp.PrepareAsync(app, settings);
await app.RunAsync();
return 0;
