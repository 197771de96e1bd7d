using System.Net.Sockets;
using Npgsql;

namespace Sirena.Storage;

/// <summary>Tells the database's trouble from that of what is written to it, however it is wrapped.</summary>
public static class DatabaseFault
{
    // Appendix A of PostgreSQL's manual: connections, rolled back, resources (a full disk among them), not in the right state, an operator or a time limit, the
    // system, the inside.
    private static readonly string[] Surroundings = ["08", "40", "53", "55", "57", "58", "XX", "25"];

    /// <summary>It is the surroundings': it passes, and says nothing of what was being done.</summary>
    public static bool OfSurroundings(Exception problem) =>
        Chain(problem)
            .Any(e =>
                e switch
                {
                    PostgresException said => Surroundings.Contains(said.SqlState[..2]),
                    NpgsqlException or TimeoutException or IOException or SocketException or OperationCanceledException => true,
                    ObjectDisposedException => true,
                    // 'Received unexpected backend message': what was left of a statement that failed before (AfterFailure); the line is closed with it.
                    { Source: "Npgsql" } => e.GetType() == typeof(Exception),
                    _ => false,
                }
            );

    /// <summary>It came from the database, whatever it says of.</summary>
    public static bool OfDatabase(Exception problem) => Chain(problem).Any(e => e is NpgsqlException);

    private static IEnumerable<Exception> Chain(Exception? problem)
    {
        for (; problem is not null; problem = problem.InnerException)
        {
            yield return problem;
        }
    }
}
