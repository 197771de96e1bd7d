using Microsoft.EntityFrameworkCore.Migrations;
using NodaTime;

#nullable disable

namespace Sirena.Storage.Migrations
{
    /// <inheritdoc />
    public partial class LateNotice : Migration
    {
        /// <inheritdoc />
        protected override void Up(MigrationBuilder migrationBuilder)
        {
            migrationBuilder.AddColumn<Instant>(
                name: "noticed_at",
                table: "matches",
                type: "timestamp with time zone",
                nullable: true);

            migrationBuilder.CreateIndex(
                name: "ix_matches_late",
                table: "matches",
                column: "at",
                filter: "outcome = 'too-late' and noticed_at is null");
        }

        /// <inheritdoc />
        protected override void Down(MigrationBuilder migrationBuilder)
        {
            migrationBuilder.DropIndex(
                name: "ix_matches_late",
                table: "matches");

            migrationBuilder.DropColumn(
                name: "noticed_at",
                table: "matches");
        }
    }
}
