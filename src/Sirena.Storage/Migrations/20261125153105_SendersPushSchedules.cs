using System;
using Microsoft.EntityFrameworkCore.Migrations;
using NodaTime;
using Npgsql.EntityFrameworkCore.PostgreSQL.Metadata;

#nullable disable

namespace Sirena.Storage.Migrations
{
    /// <inheritdoc />
    public partial class SendersPushSchedules : Migration
    {
        /// <inheritdoc />
        protected override void Up(MigrationBuilder migrationBuilder)
        {
            migrationBuilder.AddColumn<byte[]>(
                name: "hash",
                table: "messages",
                type: "bytea",
                nullable: true);

            migrationBuilder.AddColumn<int>(
                name: "size",
                table: "messages",
                type: "integer",
                nullable: true);

            migrationBuilder.AddColumn<string>(
                name: "client_id",
                table: "gateways",
                type: "text",
                nullable: true);

            migrationBuilder.AddColumn<string>(
                name: "dkim_key",
                table: "gateways",
                type: "text",
                nullable: true);

            migrationBuilder.AddColumn<string>(
                name: "dkim_selector",
                table: "gateways",
                type: "text",
                nullable: true);

            migrationBuilder.AddColumn<Instant>(
                name: "echo_back_at",
                table: "gateways",
                type: "timestamp with time zone",
                nullable: true);

            migrationBuilder.AddColumn<int>(
                name: "echo_minutes",
                table: "gateways",
                type: "integer",
                nullable: true);

            migrationBuilder.AddColumn<Instant>(
                name: "echo_missed_since",
                table: "gateways",
                type: "timestamp with time zone",
                nullable: true);

            migrationBuilder.AddColumn<Instant>(
                name: "echo_sent_at",
                table: "gateways",
                type: "timestamp with time zone",
                nullable: true);

            migrationBuilder.AddColumn<string>(
                name: "echo_to",
                table: "gateways",
                type: "text",
                nullable: true);

            migrationBuilder.AddColumn<decimal>(
                name: "monthly_budget",
                table: "gateways",
                type: "numeric",
                nullable: true);

            migrationBuilder.AddColumn<int>(
                name: "per_minute",
                table: "gateways",
                type: "integer",
                nullable: true);

            migrationBuilder.AddColumn<string>(
                name: "scope",
                table: "gateways",
                type: "text",
                nullable: true);

            migrationBuilder.AddColumn<decimal>(
                name: "segment_cost",
                table: "gateways",
                type: "numeric",
                nullable: true);

            migrationBuilder.AddColumn<string>(
                name: "token_address",
                table: "gateways",
                type: "text",
                nullable: true);

            migrationBuilder.AddColumn<string>(
                name: "audience",
                table: "deliveries",
                type: "text",
                nullable: false,
                defaultValue: "staff");

            migrationBuilder.AddColumn<int>(
                name: "body_days",
                table: "business",
                type: "integer",
                nullable: false,
                defaultValue: 0);

            migrationBuilder.AddColumn<string>(
                name: "push_private_key",
                table: "business",
                type: "text",
                nullable: true);

            migrationBuilder.AddColumn<string>(
                name: "push_public_key",
                table: "business",
                type: "text",
                nullable: true);

            migrationBuilder.AddColumn<string>(
                name: "report_mailbox",
                table: "business",
                type: "text",
                nullable: true);

            migrationBuilder.AddColumn<string>(
                name: "report_mailbox_encryption",
                table: "business",
                type: "text",
                nullable: false,
                defaultValue: "");

            migrationBuilder.AddColumn<string>(
                name: "report_mailbox_error",
                table: "business",
                type: "text",
                nullable: true);

            migrationBuilder.AddColumn<string>(
                name: "report_mailbox_secret",
                table: "business",
                type: "text",
                nullable: true);

            migrationBuilder.AddColumn<string>(
                name: "report_mailbox_user",
                table: "business",
                type: "text",
                nullable: true);

            migrationBuilder.AddColumn<bool>(
                name: "reports_taken",
                table: "business",
                type: "boolean",
                nullable: false,
                defaultValue: false);

            migrationBuilder.AddColumn<int>(
                name: "row_months",
                table: "business",
                type: "integer",
                nullable: false,
                defaultValue: 0);

            migrationBuilder.CreateTable(
                name: "customer_refusals",
                columns: table => new
                {
                    channel = table.Column<string>(type: "text", nullable: false),
                    address = table.Column<string>(type: "text", nullable: false),
                    since = table.Column<Instant>(type: "timestamp with time zone", nullable: false)
                },
                constraints: table =>
                {
                    table.PrimaryKey("pk_customer_refusals", x => new { x.channel, x.address });
                });

            migrationBuilder.CreateTable(
                name: "daily_figures",
                columns: table => new
                {
                    day = table.Column<LocalDate>(type: "date", nullable: false),
                    rule_id = table.Column<string>(type: "text", nullable: false),
                    channel = table.Column<string>(type: "text", nullable: false),
                    state = table.Column<string>(type: "text", nullable: false),
                    count = table.Column<int>(type: "integer", nullable: false)
                },
                constraints: table =>
                {
                    table.PrimaryKey("pk_daily_figures", x => new { x.day, x.rule_id, x.channel, x.state });
                });

            migrationBuilder.CreateTable(
                name: "gateway_spend",
                columns: table => new
                {
                    gateway = table.Column<string>(type: "text", nullable: false),
                    month = table.Column<LocalDate>(type: "date", nullable: false),
                    segments = table.Column<int>(type: "integer", nullable: false),
                    cost = table.Column<decimal>(type: "numeric", nullable: false),
                    warned = table.Column<bool>(type: "boolean", nullable: false)
                },
                constraints: table =>
                {
                    table.PrimaryKey("pk_gateway_spend", x => new { x.gateway, x.month });
                });

            migrationBuilder.CreateTable(
                name: "marked_messages",
                columns: table => new
                {
                    id = table.Column<Guid>(type: "uuid", nullable: false),
                    gateway = table.Column<string>(type: "text", nullable: false),
                    echo = table.Column<bool>(type: "boolean", nullable: false),
                    far_id = table.Column<string>(type: "text", nullable: true),
                    sent_at = table.Column<Instant>(type: "timestamp with time zone", nullable: false),
                    back_at = table.Column<Instant>(type: "timestamp with time zone", nullable: true),
                    arrived = table.Column<bool>(type: "boolean", nullable: true),
                    words = table.Column<string>(type: "text", nullable: true)
                },
                constraints: table =>
                {
                    table.PrimaryKey("pk_marked_messages", x => x.id);
                });

            migrationBuilder.CreateTable(
                name: "push_subscriptions",
                columns: table => new
                {
                    endpoint = table.Column<string>(type: "text", nullable: false),
                    person = table.Column<string>(type: "text", nullable: false),
                    p256dh = table.Column<string>(type: "text", nullable: false),
                    auth = table.Column<string>(type: "text", nullable: false),
                    name = table.Column<string>(type: "text", nullable: false),
                    since = table.Column<Instant>(type: "timestamp with time zone", nullable: false)
                },
                constraints: table =>
                {
                    table.PrimaryKey("pk_push_subscriptions", x => x.endpoint);
                });

            migrationBuilder.CreateTable(
                name: "schedules",
                columns: table => new
                {
                    id = table.Column<string>(type: "text", nullable: false),
                    cron = table.Column<string>(type: "text", nullable: false),
                    next_at = table.Column<Instant>(type: "timestamp with time zone", nullable: false),
                    last_at = table.Column<Instant>(type: "timestamp with time zone", nullable: true),
                    lease_until = table.Column<Instant>(type: "timestamp with time zone", nullable: true)
                },
                constraints: table =>
                {
                    table.PrimaryKey("pk_schedules", x => x.id);
                });

            migrationBuilder.CreateTable(
                name: "senders",
                columns: table => new
                {
                    id = table.Column<int>(type: "integer", nullable: false)
                        .Annotation("Npgsql:ValueGenerationStrategy", NpgsqlValueGenerationStrategy.IdentityByDefaultColumn),
                    name = table.Column<string>(type: "text", nullable: false),
                    address = table.Column<string>(type: "text", nullable: false),
                    reply_to = table.Column<string>(type: "text", nullable: true),
                    purposes = table.Column<string>(type: "jsonb", nullable: false, defaultValueSql: "'[]'"),
                    gateways = table.Column<string>(type: "jsonb", nullable: false, defaultValueSql: "'[]'"),
                    verified_at = table.Column<Instant>(type: "timestamp with time zone", nullable: true),
                    code_hash = table.Column<byte[]>(type: "bytea", nullable: true),
                    code_until = table.Column<Instant>(type: "timestamp with time zone", nullable: true)
                },
                constraints: table =>
                {
                    table.PrimaryKey("pk_senders", x => x.id);
                });

            migrationBuilder.UpdateData(
                table: "business",
                keyColumn: "id",
                keyValue: 1,
                columns: new[] { "body_days", "push_private_key", "push_public_key", "report_mailbox", "report_mailbox_encryption", "report_mailbox_error", "report_mailbox_secret", "report_mailbox_user", "reports_taken", "row_months" },
                values: new object[] { 90, null, null, null, "tls", null, null, null, false, 25 });

            migrationBuilder.CreateIndex(
                name: "ix_marked_messages_far_id",
                table: "marked_messages",
                column: "far_id");

            migrationBuilder.CreateIndex(
                name: "ix_push_subscriptions_person",
                table: "push_subscriptions",
                column: "person");

            migrationBuilder.CreateIndex(
                name: "ix_schedules_next_at",
                table: "schedules",
                column: "next_at");
        }

        /// <inheritdoc />
        protected override void Down(MigrationBuilder migrationBuilder)
        {
            migrationBuilder.DropTable(
                name: "customer_refusals");

            migrationBuilder.DropTable(
                name: "daily_figures");

            migrationBuilder.DropTable(
                name: "gateway_spend");

            migrationBuilder.DropTable(
                name: "marked_messages");

            migrationBuilder.DropTable(
                name: "push_subscriptions");

            migrationBuilder.DropTable(
                name: "schedules");

            migrationBuilder.DropTable(
                name: "senders");

            migrationBuilder.DropColumn(
                name: "hash",
                table: "messages");

            migrationBuilder.DropColumn(
                name: "size",
                table: "messages");

            migrationBuilder.DropColumn(
                name: "client_id",
                table: "gateways");

            migrationBuilder.DropColumn(
                name: "dkim_key",
                table: "gateways");

            migrationBuilder.DropColumn(
                name: "dkim_selector",
                table: "gateways");

            migrationBuilder.DropColumn(
                name: "echo_back_at",
                table: "gateways");

            migrationBuilder.DropColumn(
                name: "echo_minutes",
                table: "gateways");

            migrationBuilder.DropColumn(
                name: "echo_missed_since",
                table: "gateways");

            migrationBuilder.DropColumn(
                name: "echo_sent_at",
                table: "gateways");

            migrationBuilder.DropColumn(
                name: "echo_to",
                table: "gateways");

            migrationBuilder.DropColumn(
                name: "monthly_budget",
                table: "gateways");

            migrationBuilder.DropColumn(
                name: "per_minute",
                table: "gateways");

            migrationBuilder.DropColumn(
                name: "scope",
                table: "gateways");

            migrationBuilder.DropColumn(
                name: "segment_cost",
                table: "gateways");

            migrationBuilder.DropColumn(
                name: "token_address",
                table: "gateways");

            migrationBuilder.DropColumn(
                name: "audience",
                table: "deliveries");

            migrationBuilder.DropColumn(
                name: "body_days",
                table: "business");

            migrationBuilder.DropColumn(
                name: "push_private_key",
                table: "business");

            migrationBuilder.DropColumn(
                name: "push_public_key",
                table: "business");

            migrationBuilder.DropColumn(
                name: "report_mailbox",
                table: "business");

            migrationBuilder.DropColumn(
                name: "report_mailbox_encryption",
                table: "business");

            migrationBuilder.DropColumn(
                name: "report_mailbox_error",
                table: "business");

            migrationBuilder.DropColumn(
                name: "report_mailbox_secret",
                table: "business");

            migrationBuilder.DropColumn(
                name: "report_mailbox_user",
                table: "business");

            migrationBuilder.DropColumn(
                name: "reports_taken",
                table: "business");

            migrationBuilder.DropColumn(
                name: "row_months",
                table: "business");
        }
    }
}
