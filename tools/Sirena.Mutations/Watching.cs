using Microsoft.CodeAnalysis;
using Microsoft.CodeAnalysis.CSharp;
using Microsoft.CodeAnalysis.CSharp.Syntax;
using Microsoft.CodeAnalysis.Text;

namespace Sirena.Mutations;

/// <summary>Writes into each body of the core a call that notes which test came by, so that a change is tried with those tests alone.</summary>
/// <param name="file">The file that is rewritten.</param>
/// <param name="bodies">What has a number so far; the file's own are added.</param>
public sealed class Watching(string file, List<(string File, TextSpan Span)> bodies) : CSharpSyntaxRewriter
{
    /// <summary>What is called, as a source of its own: it writes <c>number, tab, test</c> when the tests end. A star stands for "any test": what runs once for all.</summary>
    public const string Noted = """
        namespace Sirena.Mutations;

        public static class Reached
        {
            private static readonly System.Collections.Concurrent.ConcurrentDictionary<(int, string), bool> Seen = new();
            private static readonly object?[] Last = new object?[100_000];

            static Reached() =>
                System.AppDomain.CurrentDomain.ProcessExit += (_, _) =>
                    System.IO.File.WriteAllLines(
                        System.Environment.GetEnvironmentVariable("SIRENA_REACHED")!,
                        System.Linq.Enumerable.Select(Seen.Keys, k => $"{k.Item1}\t{k.Item2}")
                    );

            public static void At(int body)
            {
                if (Xunit.TestContext.Current.TestMethod is not { } test || ReferenceEquals(Last[body], test))
                {
                    return;
                }

                Last[body] = test;
                if (
                    Seen.TryAdd((body, $"{test.TestClass.TestClassName}.{test.MethodName}"), true)
                    && new System.Diagnostics.StackTrace(false).ToString().Contains("..cctor()", System.StringComparison.Ordinal)
                )
                {
                    Seen.TryAdd((body, "*"), true);
                }
            }
        }
        """;

    /// <inheritdoc/>
    public override SyntaxNode? VisitMethodDeclaration(MethodDeclarationSyntax node)
    {
        var seen = (MethodDeclarationSyntax)base.VisitMethodDeclaration(node)!;
        var body = Body(node, seen.ExpressionBody, node.ReturnType is PredefinedTypeSyntax { Keyword.RawKind: (int)SyntaxKind.VoidKeyword });
        return body is null ? seen : seen.WithBody(body).WithExpressionBody(null).WithSemicolonToken(default);
    }

    /// <inheritdoc/>
    public override SyntaxNode? VisitConstructorDeclaration(ConstructorDeclarationSyntax node)
    {
        var seen = (ConstructorDeclarationSyntax)base.VisitConstructorDeclaration(node)!;
        var body = Body(node, seen.ExpressionBody, nothing: true);
        return body is null ? seen : seen.WithBody(body).WithExpressionBody(null).WithSemicolonToken(default);
    }

    /// <inheritdoc/>
    public override SyntaxNode? VisitPropertyDeclaration(PropertyDeclarationSyntax node)
    {
        var seen = (PropertyDeclarationSyntax)base.VisitPropertyDeclaration(node)!;
        return Body(node, seen.ExpressionBody, nothing: false) is not { } body
            ? seen
            : seen.WithExpressionBody(null)
                .WithSemicolonToken(default)
                .WithAccessorList(
                    SyntaxFactory.AccessorList([SyntaxFactory.AccessorDeclaration(SyntaxKind.GetAccessorDeclaration, body)]).NormalizeWhitespace()
                );
    }

    /// <inheritdoc/>
    public override SyntaxNode? VisitAccessorDeclaration(AccessorDeclarationSyntax node)
    {
        var seen = (AccessorDeclarationSyntax)base.VisitAccessorDeclaration(node)!;
        var body = Body(node, seen.ExpressionBody, !node.IsKind(SyntaxKind.GetAccessorDeclaration));
        return body is null ? seen : seen.WithBody(body).WithExpressionBody(null).WithSemicolonToken(default);
    }

    /// <inheritdoc/>
    public override SyntaxNode? VisitBlock(BlockSyntax node)
    {
        var seen = (BlockSyntax)base.VisitBlock(node)!;
        return seen.WithStatements(seen.Statements.Insert(0, Call(node)));
    }

    private BlockSyntax? Body(SyntaxNode whole, ArrowExpressionClauseSyntax? arrow, bool nothing) =>
        arrow?.Expression switch
        {
            null or RefExpressionSyntax => null,
            ThrowExpressionSyntax thrown => SyntaxFactory.Block(Call(whole), SyntaxFactory.ParseStatement($"throw {thrown.Expression};")),
            var e => SyntaxFactory.Block(Call(whole), SyntaxFactory.ParseStatement($"{(nothing ? "" : "return ")}{e.ToFullString()};")),
        };

    private StatementSyntax Call(SyntaxNode whole)
    {
        bodies.Add((file, whole.Span));
        return SyntaxFactory.ParseStatement($"global::Sirena.Mutations.Reached.At({bodies.Count - 1});\n");
    }
}
