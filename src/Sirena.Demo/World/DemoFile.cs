using System.Text.Json;

namespace Sirena.Demo.World;

/// <summary>Somebody who can sign in to the demo.</summary>
public sealed record DemoUser(string Name, string Email, string Password, string Role);

/// <summary>What <c>.sirena/demo.json</c> says: where the demo is and how to get in. Readable by its owner only.</summary>
public sealed record DemoFile(string Url, string SourceKey, string Token, string StandIns, string Smtp, string Database, IReadOnlyList<DemoUser> Users)
{
    private static readonly JsonSerializerOptions Options = new(JsonSerializerDefaults.Web)
    {
        WriteIndented = true,
        Encoder = System.Text.Encodings.Web.JavaScriptEncoder.UnsafeRelaxedJsonEscaping,
    };

    /// <summary>Reads it; <see langword="null"/> when it is not there or not whole.</summary>
    public static DemoFile? Read(string path)
    {
        try
        {
            return File.Exists(path) ? JsonSerializer.Deserialize<DemoFile>(File.ReadAllText(path), Options) : null;
        }
        catch (JsonException)
        {
            return null;
        }
    }

    /// <summary>Writes it.</summary>
    public void Write(string path)
    {
        var options = new FileStreamOptions { Mode = FileMode.Create, Access = FileAccess.Write };
        if (!OperatingSystem.IsWindows())
        {
            options.UnixCreateMode = UnixFileMode.UserRead | UnixFileMode.UserWrite;
        }

        using var stream = new FileStream(path, options);
        JsonSerializer.Serialize(stream, this, Options);
    }
}
