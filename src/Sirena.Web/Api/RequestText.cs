using System.Buffers;
using System.Text.Json.Nodes;
using Microsoft.Net.Http.Headers;
using Sirena.Core;
using Sirena.Formats.Documents;

namespace Sirena.Web.Api;

/// <summary>The one door for what a request carries: its size, its character set, its format, each with a sentence when it is not right.</summary>
internal static class RequestText
{
    /// <summary>The largest body where nothing else is said.</summary>
    public const int Largest = 4 * 1024 * 1024;

    /// <summary>The content type without its parameters, lower case; <see langword="null"/> when there is none.</summary>
    public static string? Media(HttpRequest request) => request.ContentType?.Split(';')[0].Trim().ToLowerInvariant();

    /// <summary>The declared character set, or <see langword="null"/>.</summary>
    public static string? Charset(HttpRequest request) =>
        MediaTypeHeaderValue.TryParse(request.ContentType, out var type) && type.Charset.HasValue ? type.Charset.Value : null;

    /// <summary>It says that it is YAML.</summary>
    public static bool IsYaml(HttpRequest request) => Media(request)?.Contains("yaml", StringComparison.Ordinal) == true;

    /// <summary>The body, or <see langword="null"/> when it is larger than allowed.</summary>
    public static async Task<byte[]?> BytesAsync(HttpRequest request, int largest, CancellationToken cancel)
    {
        if (request.ContentLength > largest)
        {
            return null;
        }

        var reader = request.BodyReader;
        while (true)
        {
            var read = await reader.ReadAsync(cancel);
            if (read.Buffer.Length > largest)
            {
                reader.AdvanceTo(read.Buffer.End);
                return null;
            }

            if (read.IsCompleted)
            {
                var body = read.Buffer.ToArray();
                reader.AdvanceTo(read.Buffer.End);
                return body;
            }

            reader.AdvanceTo(read.Buffer.Start, read.Buffer.End);
        }
    }

    /// <summary>The body as text, or the answer that says why it cannot be read.</summary>
    /// <param name="request">The request.</param>
    /// <param name="what">What it carries, with its article: <c>a rule</c>.</param>
    /// <param name="largest">How large it may be, in bytes.</param>
    public static async Task<(string? Text, IResult? Refusal)> ReadAsync(HttpRequest request, string what, int largest = Largest)
    {
        if (await BytesAsync(request, largest, request.HttpContext.RequestAborted) is not { } bytes)
        {
            return (
                null,
                Problems.Of(
                    413,
                    "The request is too large.",
                    $"{Sentences.Capital(what)} holds at most {(largest >= 1024 * 1024 ? $"{largest / (1024 * 1024)} MB" : $"{largest / 1024} KB")}."
                )
            );
        }

        var (text, error) = TextBytes.Read(bytes, Charset(request));
        return error is null ? (text, null) : (null, PeopleApi.Mistakes("The text cannot be read.", [error]));
    }

    /// <summary>The body as a document, JSON or YAML; or the answer that says why it cannot be read.</summary>
    /// <param name="request">The request.</param>
    /// <param name="what">What it carries, with its article.</param>
    public static async Task<(Node? Document, IResult? Refusal)> DocumentAsync(HttpRequest request, string what)
    {
        var (text, refusal) = await ReadAsync(request, what);
        if (text is null)
        {
            return (null, refusal);
        }

        var (node, error) = DocumentText.Read(text, IsYaml(request));
        return error is null ? (node, null) : (null, PeopleApi.Mistakes($"{Sentences.Capital(what)} cannot be read.", [error]));
    }

    /// <summary>The body as an object, or the answer that says why it is none.</summary>
    /// <param name="request">The request.</param>
    /// <param name="what">What it carries, with its article.</param>
    /// <param name="example">What is expected.</param>
    public static async Task<(JsonObject? Object, IResult? Refusal)> ObjectAsync(HttpRequest request, string what, string example)
    {
        var (node, refusal) = await DocumentAsync(request, what);
        return node is MapNode map
            ? (JsonNode.Parse(map.ToJson().GetRawText()) as JsonObject, null)
            : (
                null,
                refusal
                    ?? PeopleApi.Mistakes(
                        $"{Sentences.Capital(what)} cannot be read.",
                        [new DocumentError("", node!.Line, node.Column, $"An object is expected: {example}.")]
                    )
            );
    }
}
