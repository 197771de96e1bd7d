using System;
using Microsoft.EntityFrameworkCore.Migrations;
using NodaTime;

#nullable disable

namespace Sirena.Storage.Migrations
{
    /// <inheritdoc />
    public partial class GatewaysAndAnswers : Migration
    {
        /// <inheritdoc />
        protected override void Up(MigrationBuilder migrationBuilder)
        {
            migrationBuilder.AddColumn<Guid>(
                name: "chain",
                table: "deliveries",
                type: "uuid",
                nullable: true);

            migrationBuilder.AddColumn<string>(
                name: "far_id",
                table: "deliveries",
                type: "text",
                nullable: true);

            migrationBuilder.CreateTable(
                name: "answer_links",
                columns: table => new
                {
                    hash = table.Column<byte[]>(type: "bytea", nullable: false),
                    alert_id = table.Column<Guid>(type: "uuid", nullable: false),
                    delivery_id = table.Column<Guid>(type: "uuid", nullable: false),
                    person = table.Column<string>(type: "text", nullable: true),
                    contact = table.Column<string>(type: "text", nullable: false),
                    code = table.Column<string>(type: "text", nullable: false),
                    expires_at = table.Column<Instant>(type: "timestamp with time zone", nullable: false)
                },
                constraints: table =>
                {
                    table.PrimaryKey("pk_answer_links", x => x.hash);
                    table.ForeignKey(
                        name: "fk_answer_links_alerts_alert_id",
                        column: x => x.alert_id,
                        principalTable: "alerts",
                        principalColumn: "id",
                        onDelete: ReferentialAction.Restrict);
                });

            migrationBuilder.CreateTable(
                name: "gateways",
                columns: table => new
                {
                    id = table.Column<string>(type: "text", nullable: false),
                    channel = table.Column<string>(type: "text", nullable: false),
                    name = table.Column<string>(type: "text", nullable: false),
                    position = table.Column<int>(type: "integer", nullable: false),
                    on = table.Column<bool>(type: "boolean", nullable: false),
                    address = table.Column<string>(type: "text", nullable: false),
                    width = table.Column<int>(type: "integer", nullable: false),
                    encryption = table.Column<string>(type: "text", nullable: false),
                    user = table.Column<string>(type: "text", nullable: true),
                    sender = table.Column<string>(type: "text", nullable: true),
                    headers = table.Column<string>(type: "jsonb", nullable: false, defaultValueSql: "'{}'"),
                    body = table.Column<string>(type: "text", nullable: true),
                    id_at = table.Column<string>(type: "text", nullable: true),
                    error_at = table.Column<string>(type: "text", nullable: true),
                    secret = table.Column<string>(type: "text", nullable: true),
                    receipt_secret = table.Column<string>(type: "text", nullable: true),
                    old_receipt_secret = table.Column<string>(type: "text", nullable: true),
                    failing_since = table.Column<Instant>(type: "timestamp with time zone", nullable: true),
                    last_error = table.Column<string>(type: "text", nullable: true),
                    last_good_at = table.Column<Instant>(type: "timestamp with time zone", nullable: true)
                },
                constraints: table =>
                {
                    table.PrimaryKey("pk_gateways", x => x.id);
                });

            migrationBuilder.CreateTable(
                name: "seen_calls",
                columns: table => new
                {
                    gateway = table.Column<string>(type: "text", nullable: false),
                    call_id = table.Column<string>(type: "text", nullable: false),
                    at = table.Column<Instant>(type: "timestamp with time zone", nullable: false)
                },
                constraints: table =>
                {
                    table.PrimaryKey("pk_seen_calls", x => new { x.gateway, x.call_id });
                });

            migrationBuilder.CreateIndex(
                name: "ix_deliveries_chain",
                table: "deliveries",
                column: "chain",
                filter: "chain is not null");

            migrationBuilder.CreateIndex(
                name: "ix_deliveries_far_id",
                table: "deliveries",
                column: "far_id",
                filter: "far_id is not null");

            migrationBuilder.CreateIndex(
                name: "ix_answer_links_alert_id",
                table: "answer_links",
                column: "alert_id");

            migrationBuilder.CreateIndex(
                name: "ix_answer_links_contact_code",
                table: "answer_links",
                columns: new[] { "contact", "code" });
        }

        /// <inheritdoc />
        protected override void Down(MigrationBuilder migrationBuilder)
        {
            migrationBuilder.DropTable(
                name: "answer_links");

            migrationBuilder.DropTable(
                name: "gateways");

            migrationBuilder.DropTable(
                name: "seen_calls");

            migrationBuilder.DropIndex(
                name: "ix_deliveries_chain",
                table: "deliveries");

            migrationBuilder.DropIndex(
                name: "ix_deliveries_far_id",
                table: "deliveries");

            migrationBuilder.DropColumn(
                name: "chain",
                table: "deliveries");

            migrationBuilder.DropColumn(
                name: "far_id",
                table: "deliveries");
        }
    }
}
