using System;
using Microsoft.EntityFrameworkCore.Migrations;
using NodaTime;
using Npgsql.EntityFrameworkCore.PostgreSQL.Metadata;

#nullable disable

namespace Sirena.Storage.Migrations
{
    /// <inheritdoc />
    public partial class PausesNoticesAndLadders : Migration
    {
        /// <inheritdoc />
        protected override void Up(MigrationBuilder migrationBuilder)
        {
            migrationBuilder.AddColumn<string>(
                name: "hours",
                table: "teams",
                type: "jsonb",
                nullable: false,
                defaultValueSql: "'[]'");

            migrationBuilder.AddColumn<int>(
                name: "backlog_limit",
                table: "statuses",
                type: "integer",
                nullable: true);

            migrationBuilder.AddColumn<Instant>(
                name: "backlog_since",
                table: "statuses",
                type: "timestamp with time zone",
                nullable: true);

            migrationBuilder.AddColumn<int>(
                name: "files",
                table: "messages",
                type: "integer",
                nullable: false,
                defaultValue: 0);

            migrationBuilder.AddColumn<Instant>(
                name: "gathers_until",
                table: "deliveries",
                type: "timestamp with time zone",
                nullable: true);

            migrationBuilder.AddColumn<int>(
                name: "paused_by",
                table: "deliveries",
                type: "integer",
                nullable: true);

            migrationBuilder.AddColumn<string>(
                name: "holidays",
                table: "business",
                type: "jsonb",
                nullable: false,
                defaultValueSql: "'[]'");

            migrationBuilder.AddColumn<string>(
                name: "hours",
                table: "business",
                type: "jsonb",
                nullable: false,
                defaultValueSql: "'[]'");

            migrationBuilder.AddColumn<Instant>(
                name: "done_by",
                table: "alerts",
                type: "timestamp with time zone",
                nullable: true);

            migrationBuilder.AddColumn<Instant>(
                name: "paused_at",
                table: "alerts",
                type: "timestamp with time zone",
                nullable: true);

            migrationBuilder.AddColumn<int>(
                name: "paused_by",
                table: "alerts",
                type: "integer",
                nullable: true);

            migrationBuilder.CreateTable(
                name: "ladders",
                columns: table => new
                {
                    id = table.Column<string>(type: "text", nullable: false),
                    name = table.Column<string>(type: "text", nullable: false),
                    steps = table.Column<string>(type: "json", nullable: false),
                    saved_at = table.Column<Instant>(type: "timestamp with time zone", nullable: false),
                    saved_by = table.Column<string>(type: "text", nullable: false)
                },
                constraints: table =>
                {
                    table.PrimaryKey("pk_ladders", x => x.id);
                });

            migrationBuilder.CreateTable(
                name: "message_files",
                columns: table => new
                {
                    delivery_id = table.Column<Guid>(type: "uuid", nullable: false),
                    number = table.Column<int>(type: "integer", nullable: false),
                    name = table.Column<string>(type: "text", nullable: false),
                    type = table.Column<string>(type: "text", nullable: false),
                    content = table.Column<byte[]>(type: "bytea", nullable: false),
                    size = table.Column<int>(type: "integer", nullable: false),
                    inline = table.Column<bool>(type: "boolean", nullable: false)
                },
                constraints: table =>
                {
                    table.PrimaryKey("pk_message_files", x => new { x.delivery_id, x.number });
                    table.ForeignKey(
                        name: "fk_message_files_deliveries_delivery_id",
                        column: x => x.delivery_id,
                        principalTable: "deliveries",
                        principalColumn: "id",
                        onDelete: ReferentialAction.Restrict);
                });

            migrationBuilder.CreateTable(
                name: "note_pictures",
                columns: table => new
                {
                    id = table.Column<Guid>(type: "uuid", nullable: false),
                    order_number = table.Column<string>(type: "text", nullable: false),
                    jpeg = table.Column<byte[]>(type: "bytea", nullable: false),
                    width = table.Column<int>(type: "integer", nullable: false),
                    height = table.Column<int>(type: "integer", nullable: false),
                    at = table.Column<Instant>(type: "timestamp with time zone", nullable: false)
                },
                constraints: table =>
                {
                    table.PrimaryKey("pk_note_pictures", x => x.id);
                });

            migrationBuilder.CreateTable(
                name: "notices",
                columns: table => new
                {
                    id = table.Column<Guid>(type: "uuid", nullable: false),
                    headline = table.Column<string>(type: "text", nullable: false),
                    text = table.Column<string>(type: "text", nullable: false),
                    telling = table.Column<string>(type: "json", nullable: false),
                    urgency = table.Column<string>(type: "text", nullable: false),
                    at = table.Column<Instant>(type: "timestamp with time zone", nullable: false),
                    by = table.Column<string>(type: "text", nullable: false),
                    made_at = table.Column<Instant>(type: "timestamp with time zone", nullable: false),
                    sent_at = table.Column<Instant>(type: "timestamp with time zone", nullable: true),
                    called_off_at = table.Column<Instant>(type: "timestamp with time zone", nullable: true)
                },
                constraints: table =>
                {
                    table.PrimaryKey("pk_notices", x => x.id);
                });

            migrationBuilder.CreateTable(
                name: "pauses",
                columns: table => new
                {
                    id = table.Column<int>(type: "integer", nullable: false)
                        .Annotation("Npgsql:ValueGenerationStrategy", NpgsqlValueGenerationStrategy.IdentityByDefaultColumn),
                    scope = table.Column<string>(type: "text", nullable: false),
                    reason = table.Column<string>(type: "text", nullable: false),
                    by = table.Column<string>(type: "text", nullable: false),
                    since = table.Column<Instant>(type: "timestamp with time zone", nullable: false),
                    until = table.Column<Instant>(type: "timestamp with time zone", nullable: false),
                    asks = table.Column<bool>(type: "boolean", nullable: false),
                    ended_at = table.Column<Instant>(type: "timestamp with time zone", nullable: true),
                    outcome = table.Column<string>(type: "text", nullable: true)
                },
                constraints: table =>
                {
                    table.PrimaryKey("pk_pauses", x => x.id);
                });

            migrationBuilder.UpdateData(
                table: "business",
                keyColumn: "id",
                keyValue: 1,
                columns: new[] { "holidays", "hours" },
                values: new object[] { "[]", "[{\"days\":[1,2,3,4,5],\"from\":\"08:00:00\",\"to\":\"18:00:00\"}]" });

            migrationBuilder.CreateIndex(
                name: "ix_deliveries_gathering",
                table: "deliveries",
                column: "gathers_until",
                filter: "gathers_until is not null and state = 'waiting'");

            migrationBuilder.CreateIndex(
                name: "ix_deliveries_paused_by",
                table: "deliveries",
                column: "paused_by",
                filter: "paused_by is not null");

            migrationBuilder.CreateIndex(
                name: "ix_alerts_done_by",
                table: "alerts",
                column: "done_by",
                filter: "state = 'taken' and done_by is not null");

            migrationBuilder.CreateIndex(
                name: "ix_alerts_paused_by",
                table: "alerts",
                column: "paused_by",
                filter: "paused_by is not null");

            migrationBuilder.CreateIndex(
                name: "ix_notices_at",
                table: "notices",
                column: "at",
                filter: "sent_at is null and called_off_at is null");

            migrationBuilder.CreateIndex(
                name: "ix_notices_made_at",
                table: "notices",
                column: "made_at");

            migrationBuilder.CreateIndex(
                name: "ix_pauses_until",
                table: "pauses",
                column: "until",
                filter: "ended_at is null");
        }

        /// <inheritdoc />
        protected override void Down(MigrationBuilder migrationBuilder)
        {
            migrationBuilder.DropTable(
                name: "ladders");

            migrationBuilder.DropTable(
                name: "message_files");

            migrationBuilder.DropTable(
                name: "note_pictures");

            migrationBuilder.DropTable(
                name: "notices");

            migrationBuilder.DropTable(
                name: "pauses");

            migrationBuilder.DropIndex(
                name: "ix_deliveries_gathering",
                table: "deliveries");

            migrationBuilder.DropIndex(
                name: "ix_deliveries_paused_by",
                table: "deliveries");

            migrationBuilder.DropIndex(
                name: "ix_alerts_done_by",
                table: "alerts");

            migrationBuilder.DropIndex(
                name: "ix_alerts_paused_by",
                table: "alerts");

            migrationBuilder.DropColumn(
                name: "hours",
                table: "teams");

            migrationBuilder.DropColumn(
                name: "backlog_limit",
                table: "statuses");

            migrationBuilder.DropColumn(
                name: "backlog_since",
                table: "statuses");

            migrationBuilder.DropColumn(
                name: "files",
                table: "messages");

            migrationBuilder.DropColumn(
                name: "gathers_until",
                table: "deliveries");

            migrationBuilder.DropColumn(
                name: "paused_by",
                table: "deliveries");

            migrationBuilder.DropColumn(
                name: "holidays",
                table: "business");

            migrationBuilder.DropColumn(
                name: "hours",
                table: "business");

            migrationBuilder.DropColumn(
                name: "done_by",
                table: "alerts");

            migrationBuilder.DropColumn(
                name: "paused_at",
                table: "alerts");

            migrationBuilder.DropColumn(
                name: "paused_by",
                table: "alerts");
        }
    }
}
