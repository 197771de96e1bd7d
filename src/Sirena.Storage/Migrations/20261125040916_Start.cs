using System;
using System.Collections.Generic;
using Microsoft.EntityFrameworkCore.Migrations;
using NodaTime;
using Npgsql.EntityFrameworkCore.PostgreSQL.Metadata;

#nullable disable

namespace Sirena.Storage.Migrations
{
    /// <inheritdoc />
    public partial class Start : Migration
    {
        /// <inheritdoc />
        protected override void Up(MigrationBuilder migrationBuilder)
        {
            migrationBuilder.AlterDatabase()
                .Annotation("Npgsql:PostgresExtension:pg_trgm", ",,");

            migrationBuilder.CreateTable(
                name: "audit",
                columns: table => new
                {
                    id = table.Column<long>(type: "bigint", nullable: false)
                        .Annotation("Npgsql:ValueGenerationStrategy", NpgsqlValueGenerationStrategy.IdentityByDefaultColumn),
                    at = table.Column<Instant>(type: "timestamp with time zone", nullable: false),
                    by = table.Column<string>(type: "text", nullable: false),
                    what = table.Column<string>(type: "text", nullable: false)
                },
                constraints: table =>
                {
                    table.PrimaryKey("pk_audit", x => x.id);
                });

            migrationBuilder.CreateTable(
                name: "business",
                columns: table => new
                {
                    id = table.Column<int>(type: "integer", nullable: false),
                    name = table.Column<string>(type: "text", nullable: false),
                    base_address = table.Column<string>(type: "text", nullable: false),
                    time_zone = table.Column<string>(type: "text", nullable: false),
                    currency = table.Column<string>(type: "text", nullable: false),
                    mail_server = table.Column<string>(type: "text", nullable: false),
                    mail_from = table.Column<string>(type: "text", nullable: false)
                },
                constraints: table =>
                {
                    table.PrimaryKey("pk_business", x => x.id);
                });

            migrationBuilder.CreateTable(
                name: "data_protection_keys",
                columns: table => new
                {
                    id = table.Column<int>(type: "integer", nullable: false)
                        .Annotation("Npgsql:ValueGenerationStrategy", NpgsqlValueGenerationStrategy.IdentityByDefaultColumn),
                    friendly_name = table.Column<string>(type: "text", nullable: true),
                    xml = table.Column<string>(type: "text", nullable: true)
                },
                constraints: table =>
                {
                    table.PrimaryKey("pk_data_protection_keys", x => x.id);
                });

            migrationBuilder.CreateTable(
                name: "events",
                columns: table => new
                {
                    id = table.Column<long>(type: "bigint", nullable: false)
                        .Annotation("Npgsql:ValueGenerationStrategy", NpgsqlValueGenerationStrategy.IdentityAlwaysColumn),
                    event_id = table.Column<string>(type: "text", nullable: false),
                    source = table.Column<string>(type: "text", nullable: false),
                    type = table.Column<string>(type: "text", nullable: false),
                    subject = table.Column<string>(type: "text", nullable: true),
                    order_number = table.Column<string>(type: "text", nullable: true),
                    seq = table.Column<long>(type: "bigint", nullable: false),
                    time = table.Column<Instant>(type: "timestamp with time zone", nullable: false),
                    received = table.Column<Instant>(type: "timestamp with time zone", nullable: false),
                    late = table.Column<bool>(type: "boolean", nullable: false),
                    from_the_future = table.Column<bool>(type: "boolean", nullable: false),
                    data = table.Column<string>(type: "json", nullable: false),
                    order_before = table.Column<string>(type: "json", nullable: true),
                    order_after = table.Column<string>(type: "json", nullable: true),
                    book = table.Column<long>(type: "bigint", nullable: false),
                    decided_at = table.Column<Instant>(type: "timestamp with time zone", nullable: true),
                    problem = table.Column<string>(type: "text", nullable: true),
                    tries = table.Column<int>(type: "integer", nullable: false)
                },
                constraints: table =>
                {
                    table.PrimaryKey("pk_events", x => x.id);
                });

            migrationBuilder.CreateTable(
                name: "one_time_links",
                columns: table => new
                {
                    hash = table.Column<byte[]>(type: "bytea", nullable: false),
                    user_id = table.Column<Guid>(type: "uuid", nullable: true),
                    expires_at = table.Column<Instant>(type: "timestamp with time zone", nullable: false),
                    used_at = table.Column<Instant>(type: "timestamp with time zone", nullable: true)
                },
                constraints: table =>
                {
                    table.PrimaryKey("pk_one_time_links", x => x.hash);
                });

            migrationBuilder.CreateTable(
                name: "orders",
                columns: table => new
                {
                    number = table.Column<string>(type: "text", nullable: false),
                    document = table.Column<string>(type: "json", nullable: false),
                    times = table.Column<string>(type: "json", nullable: false),
                    seq = table.Column<long>(type: "bigint", nullable: false),
                    status = table.Column<string>(type: "text", nullable: true),
                    open = table.Column<bool>(type: "boolean", nullable: false),
                    customer = table.Column<string>(type: "text", nullable: true),
                    place = table.Column<string>(type: "text", nullable: true),
                    due_at = table.Column<Instant>(type: "timestamp with time zone", nullable: true),
                    total = table.Column<decimal>(type: "numeric", nullable: true),
                    currency = table.Column<string>(type: "text", nullable: true),
                    risk = table.Column<short>(type: "smallint", nullable: false),
                    risk_score = table.Column<decimal>(type: "numeric", nullable: true),
                    hold_reason = table.Column<string>(type: "text", nullable: true),
                    sites = table.Column<string[]>(type: "text[]", nullable: false),
                    salesperson = table.Column<string>(type: "text", nullable: true),
                    changed_at = table.Column<Instant>(type: "timestamp with time zone", nullable: false),
                    search = table.Column<string>(type: "text", nullable: false)
                },
                constraints: table =>
                {
                    table.PrimaryKey("pk_orders", x => x.number);
                });

            migrationBuilder.CreateTable(
                name: "people",
                columns: table => new
                {
                    id = table.Column<string>(type: "text", nullable: false),
                    name = table.Column<string>(type: "text", nullable: false),
                    language = table.Column<string>(type: "text", nullable: false),
                    post = table.Column<string>(type: "text", nullable: true),
                    archived_at = table.Column<Instant>(type: "timestamp with time zone", nullable: true),
                    teams = table.Column<List<string>>(type: "text[]", nullable: false)
                },
                constraints: table =>
                {
                    table.PrimaryKey("pk_people", x => x.id);
                });

            migrationBuilder.CreateTable(
                name: "rule_book",
                columns: table => new
                {
                    id = table.Column<int>(type: "integer", nullable: false),
                    version = table.Column<long>(type: "bigint", nullable: false)
                },
                constraints: table =>
                {
                    table.PrimaryKey("pk_rule_book", x => x.id);
                });

            migrationBuilder.CreateTable(
                name: "rule_versions",
                columns: table => new
                {
                    rule_id = table.Column<string>(type: "text", nullable: false),
                    version = table.Column<int>(type: "integer", nullable: false),
                    name = table.Column<string>(type: "text", nullable: false),
                    document = table.Column<string>(type: "jsonb", nullable: false),
                    book_from = table.Column<long>(type: "bigint", nullable: false),
                    book_to = table.Column<long>(type: "bigint", nullable: true),
                    saved_at = table.Column<Instant>(type: "timestamp with time zone", nullable: false),
                    saved_by = table.Column<string>(type: "text", nullable: false)
                },
                constraints: table =>
                {
                    table.PrimaryKey("pk_rule_versions", x => new { x.rule_id, x.version });
                });

            migrationBuilder.CreateTable(
                name: "sites",
                columns: table => new
                {
                    id = table.Column<string>(type: "text", nullable: false),
                    name = table.Column<string>(type: "text", nullable: false),
                    manager = table.Column<string>(type: "text", nullable: true)
                },
                constraints: table =>
                {
                    table.PrimaryKey("pk_sites", x => x.id);
                });

            migrationBuilder.CreateTable(
                name: "source_keys",
                columns: table => new
                {
                    id = table.Column<Guid>(type: "uuid", nullable: false),
                    name = table.Column<string>(type: "text", nullable: false),
                    hash = table.Column<byte[]>(type: "bytea", nullable: false),
                    start = table.Column<string>(type: "text", nullable: false),
                    prefix = table.Column<string>(type: "text", nullable: false),
                    per_minute = table.Column<int>(type: "integer", nullable: false),
                    created_at = table.Column<Instant>(type: "timestamp with time zone", nullable: false),
                    revoked_at = table.Column<Instant>(type: "timestamp with time zone", nullable: true)
                },
                constraints: table =>
                {
                    table.PrimaryKey("pk_source_keys", x => x.id);
                });

            migrationBuilder.CreateTable(
                name: "statuses",
                columns: table => new
                {
                    id = table.Column<string>(type: "text", nullable: false),
                    name = table.Column<string>(type: "text", nullable: false),
                    mark = table.Column<string>(type: "text", nullable: false),
                    position = table.Column<int>(type: "integer", nullable: false),
                    closed = table.Column<bool>(type: "boolean", nullable: false),
                    @void = table.Column<bool>(name: "void", type: "boolean", nullable: false)
                },
                constraints: table =>
                {
                    table.PrimaryKey("pk_statuses", x => x.id);
                });

            migrationBuilder.CreateTable(
                name: "teams",
                columns: table => new
                {
                    id = table.Column<string>(type: "text", nullable: false),
                    name = table.Column<string>(type: "text", nullable: false)
                },
                constraints: table =>
                {
                    table.PrimaryKey("pk_teams", x => x.id);
                });

            migrationBuilder.CreateTable(
                name: "users",
                columns: table => new
                {
                    id = table.Column<Guid>(type: "uuid", nullable: false),
                    name = table.Column<string>(type: "text", nullable: false),
                    person = table.Column<string>(type: "text", nullable: true),
                    role = table.Column<string>(type: "text", nullable: false),
                    removed_at = table.Column<Instant>(type: "timestamp with time zone", nullable: true),
                    user_name = table.Column<string>(type: "character varying(256)", maxLength: 256, nullable: true),
                    normalized_user_name = table.Column<string>(type: "character varying(256)", maxLength: 256, nullable: true),
                    email = table.Column<string>(type: "character varying(256)", maxLength: 256, nullable: true),
                    normalized_email = table.Column<string>(type: "character varying(256)", maxLength: 256, nullable: true),
                    email_confirmed = table.Column<bool>(type: "boolean", nullable: false),
                    password_hash = table.Column<string>(type: "text", nullable: true),
                    security_stamp = table.Column<string>(type: "text", nullable: true),
                    concurrency_stamp = table.Column<string>(type: "text", nullable: true),
                    phone_number = table.Column<string>(type: "text", nullable: true),
                    phone_number_confirmed = table.Column<bool>(type: "boolean", nullable: false),
                    two_factor_enabled = table.Column<bool>(type: "boolean", nullable: false),
                    lockout_end = table.Column<DateTimeOffset>(type: "timestamp with time zone", nullable: true),
                    lockout_enabled = table.Column<bool>(type: "boolean", nullable: false),
                    access_failed_count = table.Column<int>(type: "integer", nullable: false)
                },
                constraints: table =>
                {
                    table.PrimaryKey("pk_users", x => x.id);
                });

            migrationBuilder.CreateTable(
                name: "alerts",
                columns: table => new
                {
                    id = table.Column<Guid>(type: "uuid", nullable: false),
                    event_id = table.Column<long>(type: "bigint", nullable: false),
                    order_number = table.Column<string>(type: "text", nullable: true),
                    subject = table.Column<string>(type: "text", nullable: true),
                    rule_id = table.Column<string>(type: "text", nullable: false),
                    version = table.Column<int>(type: "integer", nullable: false),
                    @case = table.Column<string>(name: "case", type: "text", nullable: false),
                    urgency = table.Column<string>(type: "text", nullable: false),
                    state = table.Column<string>(type: "text", nullable: false),
                    raised_at = table.Column<Instant>(type: "timestamp with time zone", nullable: false),
                    ended_at = table.Column<Instant>(type: "timestamp with time zone", nullable: true),
                    taken_by = table.Column<string>(type: "text", nullable: true),
                    taken_at = table.Column<Instant>(type: "timestamp with time zone", nullable: true),
                    reaches_somebody = table.Column<bool>(type: "boolean", nullable: false)
                },
                constraints: table =>
                {
                    table.PrimaryKey("pk_alerts", x => x.id);
                    table.ForeignKey(
                        name: "fk_alerts_events_event_id",
                        column: x => x.event_id,
                        principalTable: "events",
                        principalColumn: "id",
                        onDelete: ReferentialAction.Restrict);
                });

            migrationBuilder.CreateTable(
                name: "matches",
                columns: table => new
                {
                    event_id = table.Column<long>(type: "bigint", nullable: false),
                    rule_id = table.Column<string>(type: "text", nullable: false),
                    version = table.Column<int>(type: "integer", nullable: false),
                    @case = table.Column<string>(name: "case", type: "text", nullable: false),
                    outcome = table.Column<string>(type: "text", nullable: false),
                    alert_id = table.Column<Guid>(type: "uuid", nullable: true),
                    at = table.Column<Instant>(type: "timestamp with time zone", nullable: false)
                },
                constraints: table =>
                {
                    table.PrimaryKey("pk_matches", x => new { x.event_id, x.rule_id });
                    table.ForeignKey(
                        name: "fk_matches_events_event_id",
                        column: x => x.event_id,
                        principalTable: "events",
                        principalColumn: "id",
                        onDelete: ReferentialAction.Restrict);
                });

            migrationBuilder.CreateTable(
                name: "contact_points",
                columns: table => new
                {
                    id = table.Column<int>(type: "integer", nullable: false)
                        .Annotation("Npgsql:ValueGenerationStrategy", NpgsqlValueGenerationStrategy.IdentityByDefaultColumn),
                    channel = table.Column<string>(type: "text", nullable: false),
                    address = table.Column<string>(type: "text", nullable: false),
                    verified = table.Column<bool>(type: "boolean", nullable: false),
                    broken_at = table.Column<Instant>(type: "timestamp with time zone", nullable: true),
                    broken_because = table.Column<string>(type: "text", nullable: true),
                    person_id = table.Column<string>(type: "text", nullable: false)
                },
                constraints: table =>
                {
                    table.PrimaryKey("pk_contact_points", x => x.id);
                    table.ForeignKey(
                        name: "fk_contact_points_people_person_id",
                        column: x => x.person_id,
                        principalTable: "people",
                        principalColumn: "id",
                        onDelete: ReferentialAction.Cascade);
                });

            migrationBuilder.CreateTable(
                name: "api_tokens",
                columns: table => new
                {
                    id = table.Column<Guid>(type: "uuid", nullable: false),
                    user_id = table.Column<Guid>(type: "uuid", nullable: false),
                    name = table.Column<string>(type: "text", nullable: false),
                    hash = table.Column<byte[]>(type: "bytea", nullable: false),
                    created_at = table.Column<Instant>(type: "timestamp with time zone", nullable: false),
                    revoked_at = table.Column<Instant>(type: "timestamp with time zone", nullable: true)
                },
                constraints: table =>
                {
                    table.PrimaryKey("pk_api_tokens", x => x.id);
                    table.ForeignKey(
                        name: "fk_api_tokens_asp_net_users_user_id",
                        column: x => x.user_id,
                        principalTable: "users",
                        principalColumn: "id",
                        onDelete: ReferentialAction.Restrict);
                });

            migrationBuilder.CreateTable(
                name: "AspNetUserClaims",
                columns: table => new
                {
                    id = table.Column<int>(type: "integer", nullable: false)
                        .Annotation("Npgsql:ValueGenerationStrategy", NpgsqlValueGenerationStrategy.IdentityByDefaultColumn),
                    user_id = table.Column<Guid>(type: "uuid", nullable: false),
                    claim_type = table.Column<string>(type: "text", nullable: true),
                    claim_value = table.Column<string>(type: "text", nullable: true)
                },
                constraints: table =>
                {
                    table.PrimaryKey("pk_asp_net_user_claims", x => x.id);
                    table.ForeignKey(
                        name: "fk_asp_net_user_claims_asp_net_users_user_id",
                        column: x => x.user_id,
                        principalTable: "users",
                        principalColumn: "id",
                        onDelete: ReferentialAction.Cascade);
                });

            migrationBuilder.CreateTable(
                name: "AspNetUserLogins",
                columns: table => new
                {
                    login_provider = table.Column<string>(type: "text", nullable: false),
                    provider_key = table.Column<string>(type: "text", nullable: false),
                    provider_display_name = table.Column<string>(type: "text", nullable: true),
                    user_id = table.Column<Guid>(type: "uuid", nullable: false)
                },
                constraints: table =>
                {
                    table.PrimaryKey("pk_asp_net_user_logins", x => new { x.login_provider, x.provider_key });
                    table.ForeignKey(
                        name: "fk_asp_net_user_logins_asp_net_users_user_id",
                        column: x => x.user_id,
                        principalTable: "users",
                        principalColumn: "id",
                        onDelete: ReferentialAction.Cascade);
                });

            migrationBuilder.CreateTable(
                name: "AspNetUserTokens",
                columns: table => new
                {
                    user_id = table.Column<Guid>(type: "uuid", nullable: false),
                    login_provider = table.Column<string>(type: "text", nullable: false),
                    name = table.Column<string>(type: "text", nullable: false),
                    value = table.Column<string>(type: "text", nullable: true)
                },
                constraints: table =>
                {
                    table.PrimaryKey("pk_asp_net_user_tokens", x => new { x.user_id, x.login_provider, x.name });
                    table.ForeignKey(
                        name: "fk_asp_net_user_tokens_asp_net_users_user_id",
                        column: x => x.user_id,
                        principalTable: "users",
                        principalColumn: "id",
                        onDelete: ReferentialAction.Cascade);
                });

            migrationBuilder.CreateTable(
                name: "alert_steps",
                columns: table => new
                {
                    alert_id = table.Column<Guid>(type: "uuid", nullable: false),
                    index = table.Column<int>(type: "integer", nullable: false),
                    due_at = table.Column<Instant>(type: "timestamp with time zone", nullable: false),
                    fired_at = table.Column<Instant>(type: "timestamp with time zone", nullable: true),
                    pulled_forward = table.Column<bool>(type: "boolean", nullable: false),
                    told = table.Column<string>(type: "jsonb", nullable: false),
                    left = table.Column<string>(type: "jsonb", nullable: false)
                },
                constraints: table =>
                {
                    table.PrimaryKey("pk_alert_steps", x => new { x.alert_id, x.index });
                    table.ForeignKey(
                        name: "fk_alert_steps_alerts_alert_id",
                        column: x => x.alert_id,
                        principalTable: "alerts",
                        principalColumn: "id",
                        onDelete: ReferentialAction.Restrict);
                });

            migrationBuilder.CreateTable(
                name: "answers",
                columns: table => new
                {
                    id = table.Column<long>(type: "bigint", nullable: false)
                        .Annotation("Npgsql:ValueGenerationStrategy", NpgsqlValueGenerationStrategy.IdentityByDefaultColumn),
                    alert_id = table.Column<Guid>(type: "uuid", nullable: false),
                    person = table.Column<string>(type: "text", nullable: false),
                    kind = table.Column<string>(type: "text", nullable: false),
                    at = table.Column<Instant>(type: "timestamp with time zone", nullable: false),
                    via = table.Column<string>(type: "text", nullable: false),
                    entered_by = table.Column<string>(type: "text", nullable: true),
                    note = table.Column<string>(type: "text", nullable: true)
                },
                constraints: table =>
                {
                    table.PrimaryKey("pk_answers", x => x.id);
                    table.ForeignKey(
                        name: "fk_answers_alerts_alert_id",
                        column: x => x.alert_id,
                        principalTable: "alerts",
                        principalColumn: "id",
                        onDelete: ReferentialAction.Restrict);
                });

            migrationBuilder.CreateTable(
                name: "deliveries",
                columns: table => new
                {
                    id = table.Column<Guid>(type: "uuid", nullable: false),
                    alert_id = table.Column<Guid>(type: "uuid", nullable: false),
                    order_number = table.Column<string>(type: "text", nullable: true),
                    rule_id = table.Column<string>(type: "text", nullable: false),
                    step = table.Column<int>(type: "integer", nullable: false),
                    person = table.Column<string>(type: "text", nullable: true),
                    channel = table.Column<string>(type: "text", nullable: false),
                    to = table.Column<string>(type: "text", nullable: false),
                    state = table.Column<string>(type: "text", nullable: false),
                    reason = table.Column<string>(type: "text", nullable: true),
                    evidence = table.Column<string>(type: "text", nullable: true),
                    created_at = table.Column<Instant>(type: "timestamp with time zone", nullable: false),
                    due_at = table.Column<Instant>(type: "timestamp with time zone", nullable: false),
                    deadline = table.Column<Instant>(type: "timestamp with time zone", nullable: false),
                    handed_over_at = table.Column<Instant>(type: "timestamp with time zone", nullable: true),
                    landed_at = table.Column<Instant>(type: "timestamp with time zone", nullable: true),
                    answered = table.Column<bool>(type: "boolean", nullable: false),
                    tries = table.Column<int>(type: "integer", nullable: false),
                    carried_by = table.Column<Guid>(type: "uuid", nullable: true),
                    lease = table.Column<Guid>(type: "uuid", nullable: true),
                    lease_until = table.Column<Instant>(type: "timestamp with time zone", nullable: true)
                },
                constraints: table =>
                {
                    table.PrimaryKey("pk_deliveries", x => x.id);
                    table.ForeignKey(
                        name: "fk_deliveries_alerts_alert_id",
                        column: x => x.alert_id,
                        principalTable: "alerts",
                        principalColumn: "id",
                        onDelete: ReferentialAction.Restrict);
                });

            migrationBuilder.CreateTable(
                name: "attempts",
                columns: table => new
                {
                    delivery_id = table.Column<Guid>(type: "uuid", nullable: false),
                    number = table.Column<int>(type: "integer", nullable: false),
                    at = table.Column<Instant>(type: "timestamp with time zone", nullable: false),
                    ended_at = table.Column<Instant>(type: "timestamp with time zone", nullable: true),
                    gateway = table.Column<string>(type: "text", nullable: false),
                    outcome = table.Column<string>(type: "text", nullable: false),
                    code = table.Column<string>(type: "text", nullable: true),
                    reply = table.Column<string>(type: "text", nullable: true)
                },
                constraints: table =>
                {
                    table.PrimaryKey("pk_attempts", x => new { x.delivery_id, x.number });
                    table.ForeignKey(
                        name: "fk_attempts_deliveries_delivery_id",
                        column: x => x.delivery_id,
                        principalTable: "deliveries",
                        principalColumn: "id",
                        onDelete: ReferentialAction.Restrict);
                });

            migrationBuilder.CreateTable(
                name: "messages",
                columns: table => new
                {
                    delivery_id = table.Column<Guid>(type: "uuid", nullable: false),
                    subject = table.Column<string>(type: "text", nullable: false),
                    text = table.Column<string>(type: "text", nullable: false),
                    html = table.Column<string>(type: "text", nullable: true)
                },
                constraints: table =>
                {
                    table.PrimaryKey("pk_messages", x => x.delivery_id);
                    table.ForeignKey(
                        name: "fk_messages_deliveries_delivery_id",
                        column: x => x.delivery_id,
                        principalTable: "deliveries",
                        principalColumn: "id",
                        onDelete: ReferentialAction.Restrict);
                });

            migrationBuilder.CreateTable(
                name: "receipts",
                columns: table => new
                {
                    id = table.Column<long>(type: "bigint", nullable: false)
                        .Annotation("Npgsql:ValueGenerationStrategy", NpgsqlValueGenerationStrategy.IdentityByDefaultColumn),
                    delivery_id = table.Column<Guid>(type: "uuid", nullable: false),
                    at = table.Column<Instant>(type: "timestamp with time zone", nullable: false),
                    kind = table.Column<string>(type: "text", nullable: false),
                    text = table.Column<string>(type: "text", nullable: false)
                },
                constraints: table =>
                {
                    table.PrimaryKey("pk_receipts", x => x.id);
                    table.ForeignKey(
                        name: "fk_receipts_deliveries_delivery_id",
                        column: x => x.delivery_id,
                        principalTable: "deliveries",
                        principalColumn: "id",
                        onDelete: ReferentialAction.Restrict);
                });

            migrationBuilder.InsertData(
                table: "business",
                columns: new[] { "id", "base_address", "currency", "mail_from", "mail_server", "name", "time_zone" },
                values: new object[] { 1, "http://127.0.0.1:5080", "EUR", "sirena@localhost.localdomain", "127.0.0.1:25", "Our order desk", "Europe/Lisbon" });

            migrationBuilder.InsertData(
                table: "rule_book",
                columns: new[] { "id", "version" },
                values: new object[] { 1, 0L });

            migrationBuilder.CreateIndex(
                name: "ix_alerts_burning",
                table: "alerts",
                columns: new[] { "state", "raised_at" },
                filter: "state in ('open','taken','lapsed')");

            migrationBuilder.CreateIndex(
                name: "ix_alerts_event_id",
                table: "alerts",
                column: "event_id");

            migrationBuilder.CreateIndex(
                name: "ix_alerts_open_order",
                table: "alerts",
                column: "order_number",
                filter: "state = 'open'");

            migrationBuilder.CreateIndex(
                name: "ix_alerts_order_number_raised_at",
                table: "alerts",
                columns: new[] { "order_number", "raised_at" });

            migrationBuilder.CreateIndex(
                name: "ix_alerts_raised_at_id",
                table: "alerts",
                columns: new[] { "raised_at", "id" });

            migrationBuilder.CreateIndex(
                name: "ix_alerts_rule_id_raised_at",
                table: "alerts",
                columns: new[] { "rule_id", "raised_at" });

            migrationBuilder.CreateIndex(
                name: "ix_alerts_subject_rule_id_raised_at",
                table: "alerts",
                columns: new[] { "subject", "rule_id", "raised_at" });

            migrationBuilder.CreateIndex(
                name: "ix_answers_alert_id",
                table: "answers",
                column: "alert_id");

            migrationBuilder.CreateIndex(
                name: "ix_api_tokens_hash",
                table: "api_tokens",
                column: "hash",
                unique: true);

            migrationBuilder.CreateIndex(
                name: "ix_api_tokens_user_id",
                table: "api_tokens",
                column: "user_id");

            migrationBuilder.CreateIndex(
                name: "ix_asp_net_user_claims_user_id",
                table: "AspNetUserClaims",
                column: "user_id");

            migrationBuilder.CreateIndex(
                name: "ix_asp_net_user_logins_user_id",
                table: "AspNetUserLogins",
                column: "user_id");

            migrationBuilder.CreateIndex(
                name: "ix_audit_at",
                table: "audit",
                column: "at");

            migrationBuilder.CreateIndex(
                name: "ix_contact_points_person_id",
                table: "contact_points",
                column: "person_id");

            migrationBuilder.CreateIndex(
                name: "ix_deliveries_alert_id",
                table: "deliveries",
                column: "alert_id");

            migrationBuilder.CreateIndex(
                name: "ix_deliveries_due",
                table: "deliveries",
                columns: new[] { "channel", "due_at" },
                filter: "state in ('waiting','sending')");

            migrationBuilder.CreateIndex(
                name: "ix_deliveries_ledger",
                table: "deliveries",
                columns: new[] { "created_at", "id" })
                .Annotation("Npgsql:IndexInclude", new[] { "state", "channel", "answered" });

            migrationBuilder.CreateIndex(
                name: "ix_deliveries_order_number_created_at",
                table: "deliveries",
                columns: new[] { "order_number", "created_at" });

            migrationBuilder.CreateIndex(
                name: "ix_deliveries_person",
                table: "deliveries",
                columns: new[] { "person", "created_at", "id" });

            migrationBuilder.CreateIndex(
                name: "ix_deliveries_state",
                table: "deliveries",
                columns: new[] { "state", "created_at", "id" });

            migrationBuilder.CreateIndex(
                name: "ix_events_order_number_seq",
                table: "events",
                columns: new[] { "order_number", "seq" },
                filter: "order_number is not null");

            migrationBuilder.CreateIndex(
                name: "ix_events_source_event_id",
                table: "events",
                columns: new[] { "source", "event_id" },
                unique: true);

            migrationBuilder.CreateIndex(
                name: "ix_events_undecided",
                table: "events",
                column: "id",
                filter: "decided_at is null");

            migrationBuilder.CreateIndex(
                name: "ix_matches_rule_id_at",
                table: "matches",
                columns: new[] { "rule_id", "at" });

            migrationBuilder.CreateIndex(
                name: "ix_orders_due_at_number",
                table: "orders",
                columns: new[] { "due_at", "number" });

            migrationBuilder.CreateIndex(
                name: "ix_orders_due_at_number1",
                table: "orders",
                columns: new[] { "due_at", "number" },
                filter: "open");

            migrationBuilder.CreateIndex(
                name: "ix_orders_open_held",
                table: "orders",
                column: "hold_reason",
                filter: "open and hold_reason is not null");

            migrationBuilder.CreateIndex(
                name: "ix_orders_open_risk",
                table: "orders",
                column: "risk",
                filter: "open and risk >= 2");

            migrationBuilder.CreateIndex(
                name: "ix_orders_open_sites",
                table: "orders",
                column: "sites",
                filter: "open")
                .Annotation("Npgsql:IndexMethod", "gin");

            migrationBuilder.CreateIndex(
                name: "ix_orders_search",
                table: "orders",
                column: "search")
                .Annotation("Npgsql:IndexMethod", "gin")
                .Annotation("Npgsql:IndexOperators", new[] { "gin_trgm_ops" });

            migrationBuilder.CreateIndex(
                name: "ix_orders_status_due",
                table: "orders",
                columns: new[] { "status", "due_at", "number" });

            migrationBuilder.CreateIndex(
                name: "ix_receipts_delivery_id",
                table: "receipts",
                column: "delivery_id");

            migrationBuilder.CreateIndex(
                name: "ix_rule_versions_in_force",
                table: "rule_versions",
                column: "rule_id",
                unique: true,
                filter: "book_to is null");

            migrationBuilder.CreateIndex(
                name: "ix_source_keys_hash",
                table: "source_keys",
                column: "hash",
                unique: true);

            migrationBuilder.CreateIndex(
                name: "EmailIndex",
                table: "users",
                column: "normalized_email");

            migrationBuilder.CreateIndex(
                name: "UserNameIndex",
                table: "users",
                column: "normalized_user_name",
                unique: true);
        }

        /// <inheritdoc />
        protected override void Down(MigrationBuilder migrationBuilder)
        {
            migrationBuilder.DropTable(
                name: "alert_steps");

            migrationBuilder.DropTable(
                name: "answers");

            migrationBuilder.DropTable(
                name: "api_tokens");

            migrationBuilder.DropTable(
                name: "AspNetUserClaims");

            migrationBuilder.DropTable(
                name: "AspNetUserLogins");

            migrationBuilder.DropTable(
                name: "AspNetUserTokens");

            migrationBuilder.DropTable(
                name: "attempts");

            migrationBuilder.DropTable(
                name: "audit");

            migrationBuilder.DropTable(
                name: "business");

            migrationBuilder.DropTable(
                name: "contact_points");

            migrationBuilder.DropTable(
                name: "data_protection_keys");

            migrationBuilder.DropTable(
                name: "matches");

            migrationBuilder.DropTable(
                name: "messages");

            migrationBuilder.DropTable(
                name: "one_time_links");

            migrationBuilder.DropTable(
                name: "orders");

            migrationBuilder.DropTable(
                name: "receipts");

            migrationBuilder.DropTable(
                name: "rule_book");

            migrationBuilder.DropTable(
                name: "rule_versions");

            migrationBuilder.DropTable(
                name: "sites");

            migrationBuilder.DropTable(
                name: "source_keys");

            migrationBuilder.DropTable(
                name: "statuses");

            migrationBuilder.DropTable(
                name: "teams");

            migrationBuilder.DropTable(
                name: "users");

            migrationBuilder.DropTable(
                name: "people");

            migrationBuilder.DropTable(
                name: "deliveries");

            migrationBuilder.DropTable(
                name: "alerts");

            migrationBuilder.DropTable(
                name: "events");
        }
    }
}
