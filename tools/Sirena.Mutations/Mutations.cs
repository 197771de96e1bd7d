using Microsoft.CodeAnalysis;
using Microsoft.CodeAnalysis.CSharp;
using Microsoft.CodeAnalysis.CSharp.Syntax;
using Microsoft.CodeAnalysis.Text;

namespace Sirena.Mutations;

/// <summary>A change to the core on purpose, small enough that only a test of that very line notices it.</summary>
/// <param name="File">The file, from the root of the core.</param>
/// <param name="Line">The line, from 1.</param>
/// <param name="Span">What is replaced.</param>
/// <param name="Was">What stands there.</param>
/// <param name="Becomes">What stands there instead.</param>
public sealed record Mutation(string File, int Line, TextSpan Span, string Was, string Becomes);

/// <summary>Finds the places where a mistake of one character or word could have been made.</summary>
public static class Mutations
{
    private static readonly Dictionary<SyntaxKind, string[]> Tokens = new()
    {
        [SyntaxKind.LessThanToken] = ["<=", ">"],
        [SyntaxKind.LessThanEqualsToken] = ["<", ">="],
        [SyntaxKind.GreaterThanToken] = [">=", "<"],
        [SyntaxKind.GreaterThanEqualsToken] = [">", "<="],
        [SyntaxKind.EqualsEqualsToken] = ["!="],
        [SyntaxKind.ExclamationEqualsToken] = ["=="],
        [SyntaxKind.AmpersandAmpersandToken] = ["||"],
        [SyntaxKind.BarBarToken] = ["&&"],
        [SyntaxKind.PlusToken] = ["-"],
        [SyntaxKind.MinusToken] = ["+"],
        [SyntaxKind.TrueKeyword] = ["false"],
        [SyntaxKind.FalseKeyword] = ["true"],
    };

    private static readonly Dictionary<string, string> Calls = new()
    {
        ["Any"] = "All",
        ["All"] = "Any",
        ["Min"] = "Max",
        ["Max"] = "Min",
        ["First"] = "Last",
        ["FirstOrDefault"] = "LastOrDefault",
        ["OrderBy"] = "OrderByDescending",
        ["OrderByDescending"] = "OrderBy",
    };

    /// <summary>All of a file.</summary>
    public static IEnumerable<Mutation> Of(string file, SyntaxTree tree)
    {
        foreach (var token in tree.GetRoot().DescendantTokens())
        {
            if (token.Parent is null || Idle(token.Parent))
            {
                continue;
            }

            foreach (var becomes in Instead(token))
            {
                yield return new Mutation(file, tree.GetLineSpan(token.Span).StartLinePosition.Line + 1, token.Span, token.Text, becomes);
            }
        }
    }

    private static IEnumerable<string> Instead(SyntaxToken token) =>
        token.Parent switch
        {
            BinaryExpressionSyntax or RelationalPatternSyntax or LiteralExpressionSyntax when Tokens.TryGetValue(token.Kind(), out var others) => others,
            PrefixUnaryExpressionSyntax when token.IsKind(SyntaxKind.ExclamationToken) => [""],
            LiteralExpressionSyntax { RawKind: (int)SyntaxKind.NumericLiteralExpression } when token.Value is int n => [$"{n + 1}"],
            IdentifierNameSyntax { Parent: MemberAccessExpressionSyntax { Parent: InvocationExpressionSyntax } member } name
                when member.Name == name && Calls.TryGetValue(token.Text, out var other) => [other],
            BinaryPatternSyntax when token.IsKind(SyntaxKind.OrKeyword) => ["and"],
            _ => [],
        };

    // What nobody's code runs by: attributes, sentences of errors, the places of lines in a text.
    private static bool Idle(SyntaxNode node) =>
        node.AncestorsAndSelf().Any(n => n is AttributeSyntax or InterpolationAlignmentClauseSyntax or EnumMemberDeclarationSyntax or UsingDirectiveSyntax);
}
