using Microsoft.EntityFrameworkCore.Migrations;
using NodaTime;

#nullable disable

namespace Sirena.Storage.Migrations
{
    /// <inheritdoc />
    public partial class StatusesAndFields : Migration
    {
        /// <inheritdoc />
        protected override void Up(MigrationBuilder migrationBuilder)
        {
            migrationBuilder.AddColumn<int>(
                name: "allowed_minutes",
                table: "statuses",
                type: "integer",
                nullable: true);

            migrationBuilder.AddColumn<string>(
                name: "customer_sees",
                table: "statuses",
                type: "text",
                nullable: true);

            migrationBuilder.AddColumn<bool>(
                name: "final",
                table: "statuses",
                type: "boolean",
                nullable: false,
                defaultValue: false);

            // What was closed before could not be left again.
            migrationBuilder.Sql("update statuses set final = closed");

            migrationBuilder.AddColumn<string[]>(
                name: "words",
                table: "statuses",
                type: "text[]",
                nullable: false,
                defaultValue: new string[0]);

            migrationBuilder.AddColumn<string>(
                name: "note",
                table: "rule_versions",
                type: "text",
                nullable: true);

            migrationBuilder.AddColumn<Instant>(
                name: "off_until",
                table: "rule_versions",
                type: "timestamp with time zone",
                nullable: true);

            migrationBuilder.CreateTable(
                name: "event_kinds",
                columns: table => new
                {
                    type = table.Column<string>(type: "text", nullable: false),
                    name = table.Column<string>(type: "text", nullable: false),
                    phrase = table.Column<string>(type: "text", nullable: false)
                },
                constraints: table =>
                {
                    table.PrimaryKey("pk_event_kinds", x => x.type);
                });

            migrationBuilder.CreateTable(
                name: "seen_fields",
                columns: table => new
                {
                    path = table.Column<string>(type: "text", nullable: false),
                    type = table.Column<string>(type: "text", nullable: false),
                    values = table.Column<string[]>(type: "text[]", nullable: false),
                    at = table.Column<Instant>(type: "timestamp with time zone", nullable: false)
                },
                constraints: table =>
                {
                    table.PrimaryKey("pk_seen_fields", x => x.path);
                });
        }

        /// <inheritdoc />
        protected override void Down(MigrationBuilder migrationBuilder)
        {
            migrationBuilder.DropTable(
                name: "event_kinds");

            migrationBuilder.DropTable(
                name: "seen_fields");

            migrationBuilder.DropColumn(
                name: "allowed_minutes",
                table: "statuses");

            migrationBuilder.DropColumn(
                name: "customer_sees",
                table: "statuses");

            migrationBuilder.DropColumn(
                name: "final",
                table: "statuses");

            migrationBuilder.DropColumn(
                name: "words",
                table: "statuses");

            migrationBuilder.DropColumn(
                name: "note",
                table: "rule_versions");

            migrationBuilder.DropColumn(
                name: "off_until",
                table: "rule_versions");
        }
    }
}
