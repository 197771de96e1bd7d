using Microsoft.AspNetCore.Identity;
using Sirena.Storage.Access;

namespace Sirena.Web.Access;

/// <summary>A password is long enough, not one letter again and again, not the user's own name, and none of those that are tried first.</summary>
public sealed class PasswordRule : IPasswordValidator<User>
{
    private const int FewestDifferent = 5;
    private static readonly string[] TriedFirst =
    [
        "password",
        "passwort",
        "qwertyuiop",
        "1234567890",
        "0123456789",
        "abcdefghij",
        "letmein",
        "iloveyou",
        "welcome",
        "sirena",
        "administrator",
        "changeme",
    ];

    /// <summary>Why a password is not taken.</summary>
    private const string Guessable =
        "This password would be guessed. Take 10 characters or more, at least five of them different, without your name or mail address and without a "
        + "word such as password.";

    /// <summary>The sentence on a new password that was not taken.</summary>
    public static string Problem(IdentityResult result) =>
        result.Errors.Any(e => e.Code == nameof(Guessable)) ? Guessable : "This password is too short: 10 characters or more.";

    /// <inheritdoc/>
    public Task<IdentityResult> ValidateAsync(UserManager<User> manager, User user, string? password)
    {
        var plain = (password ?? "").ToLowerInvariant();
        var own = $"{user.Name} {user.Email?.Split('@')[0]}"
            .ToLowerInvariant()
            .Split([' ', '.', '-', '_'], StringSplitOptions.RemoveEmptyEntries)
            .Where(w => w.Length > 3);
        var rest = TriedFirst.Concat(own).Aggregate(plain, (left, word) => left.Replace(word, "", StringComparison.Ordinal));
        return Task.FromResult(
            plain.Distinct().Count() >= FewestDifferent && rest.Length >= FewestDifferent
                ? IdentityResult.Success
                : IdentityResult.Failed(new IdentityError { Code = nameof(Guessable), Description = Guessable })
        );
    }
}
