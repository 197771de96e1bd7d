using System.Text.Json;

namespace Sirena.Core.Sources;

/// <summary>A body as it is read.</summary>
/// <param name="Root">Its values; a form and a row are an object of their fields.</param>
/// <param name="Header">A header by its name, or <see langword="null"/>.</param>
public sealed record Body(JsonElement Root, Func<string, string?> Header);
