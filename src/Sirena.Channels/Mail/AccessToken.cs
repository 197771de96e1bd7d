using System.Net.Http.Json;
using System.Text.Json;
using MailKit.Security;

namespace Sirena.Channels.Mail;

/// <summary>An access token for a mailbox, asked for when it is needed and kept while it is valid.</summary>
public sealed class AccessToken(TokenSettings settings, TimeProvider time) : IDisposable
{
    private static readonly TimeSpan Margin = TimeSpan.FromMinutes(1);
    private readonly HttpClient http = new(new SocketsHttpHandler { AllowAutoRedirect = false, ConnectTimeout = TimeSpan.FromSeconds(5) })
    {
        Timeout = TimeSpan.FromSeconds(10),
    };
    private readonly SemaphoreSlim one = new(1);
    private (string Token, DateTimeOffset Until)? kept;

    /// <summary>A valid token.</summary>
    /// <exception cref="AuthenticationException">None is to be had; the message says what the token's address said.</exception>
    public async Task<string> GetAsync(CancellationToken cancel)
    {
        await one.WaitAsync(cancel);
        try
        {
            if (kept is { } good && good.Until > time.GetUtcNow())
            {
                return good.Token;
            }

            var asked = new Dictionary<string, string>
            {
                ["grant_type"] = "client_credentials",
                ["client_id"] = settings.ClientId,
                ["client_secret"] = settings.Secret,
            };
            if (settings.Scope is { } scope)
            {
                asked["scope"] = scope;
            }

            using var content = new FormUrlEncodedContent(asked);
            using var answer = await http.PostAsync(settings.Address, content, cancel);
            var said = await answer.Content.ReadFromJsonAsync<JsonElement>(cancel);
            if (
                !answer.IsSuccessStatusCode
                || said.ValueKind != JsonValueKind.Object
                || !said.TryGetProperty("access_token", out var token)
                || token.GetString() is not { } value
            )
            {
                var error =
                    said.ValueKind == JsonValueKind.Object && (said.TryGetProperty("error_description", out var e) || said.TryGetProperty("error", out e))
                        ? e.ToString()
                        : $"HTTP {(int)answer.StatusCode}";
                throw new AuthenticationException($"no access token from {settings.Address.Host}: {error}");
            }

            var seconds = said.TryGetProperty("expires_in", out var lasts) && lasts.TryGetInt32(out var s) ? s : 300;
            kept = (value, time.GetUtcNow() + TimeSpan.FromSeconds(seconds) - Margin);
            return value;
        }
        catch (Exception e) when (e is HttpRequestException or JsonException || (e is OperationCanceledException && !cancel.IsCancellationRequested))
        {
            throw new AuthenticationException($"no access token from {settings.Address.Host}: {e.GetBaseException().Message}", e);
        }
        finally
        {
            one.Release();
        }
    }

    /// <summary>Forgets it: the mail server did not accept it.</summary>
    public void Forget() => kept = null;

    /// <inheritdoc/>
    public void Dispose()
    {
        http.Dispose();
        one.Dispose();
    }
}

/// <summary>Signs a mail client in as its settings say.</summary>
internal static class SignIn
{
    /// <summary>With a bearer token (RFC 7628, or its forerunner where the server offers only that) or with the password; not at all without a user.</summary>
    public static async Task RunAsync(MailKit.MailService client, string? user, string? password, AccessToken? token, CancellationToken cancel)
    {
        if (user is null)
        {
            return;
        }

        if (token is null)
        {
            await client.AuthenticateAsync(user, password ?? "", cancel);
            return;
        }

        var bearer = await token.GetAsync(cancel);
        try
        {
            await client.AuthenticateAsync(
                client.AuthenticationMechanisms.Contains("OAUTHBEARER") ? new SaslMechanismOAuthBearer(user, bearer) : new SaslMechanismOAuth2(user, bearer),
                cancel
            );
        }
        catch (AuthenticationException)
        {
            token.Forget();
            throw;
        }
    }
}
