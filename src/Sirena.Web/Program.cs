using Sirena.Web;

var (settings, problem) = ServeSettings.Read(args);
if (settings is null)
{
    Console.Error.WriteLine(problem);
    return 2;
}

var app = SirenaApp.Build(args, settings);
if (await FirstContact.MakeAsync(app, settings) is { } refused)
{
    Console.Error.WriteLine(refused);
    return 3;
}

var work = FirstContact.Work(app);
try
{
    await app.RunAsync();
}
catch (IOException e) when (e.InnerException is Microsoft.AspNetCore.Connections.AddressInUseException)
{
    Console.Error.WriteLine($"{e.Message} Choose another one with --urls http://127.0.0.1:PORT, or stop what listens there.");
    return 4;
}

return FirstContact.Broke(work) ? 1 : 0;
