using System;
using System.Collections.Generic;
using Microsoft.EntityFrameworkCore.Infrastructure;
using Microsoft.EntityFrameworkCore.Metadata;
using Microsoft.EntityFrameworkCore.Migrations;
using NodaTime;
using Npgsql.EntityFrameworkCore.PostgreSQL.Metadata;

#nullable disable

namespace Sirena.Storage.Migrations
{
    /// <summary>The whole schema.</summary>
    [DbContext(typeof(SirenaDb))]
    [Migration("20261129064000_Start")]
    public class Start : Migration
    {
        /// <summary>The model that it leads to: as long as there is no later one, it is the snapshot's, and is not written a second time.</summary>
        public override IModel TargetModel => new SirenaDbModelSnapshot().Model;

        /// <inheritdoc />
        protected override void Up(MigrationBuilder migrationBuilder)
        {
            migrationBuilder.AlterDatabase()
                .Annotation("Npgsql:PostgresExtension:pg_trgm", ",,");

            migrationBuilder.CreateSequence(
                name: "instruction_seq");

            migrationBuilder.CreateTable(
                name: "arrivals",
                columns: table => new
                {
                    id = table.Column<long>(type: "bigint", nullable: false)
                        .Annotation("Npgsql:ValueGenerationStrategy", NpgsqlValueGenerationStrategy.IdentityAlwaysColumn),
                    source = table.Column<string>(type: "text", nullable: false),
                    at = table.Column<Instant>(type: "timestamp with time zone", nullable: false),
                    size = table.Column<int>(type: "integer", nullable: false),
                    content = table.Column<byte[]>(type: "bytea", nullable: true),
                    media_type = table.Column<string>(type: "text", nullable: true),
                    headers = table.Column<string>(type: "jsonb", nullable: false, defaultValueSql: "'{}'"),
                    hash = table.Column<byte[]>(type: "bytea", nullable: true),
                    state = table.Column<string>(type: "text", nullable: false),
                    problem = table.Column<string>(type: "jsonb", nullable: true),
                    events = table.Column<string[]>(type: "text[]", nullable: false, defaultValueSql: "'{}'"),
                    reading_version = table.Column<int>(type: "integer", nullable: false, defaultValue: 0),
                    again = table.Column<bool>(type: "boolean", nullable: false, defaultValue: false),
                    address = table.Column<string>(type: "text", nullable: true)
                },
                constraints: table =>
                {
                    table.PrimaryKey("pk_arrivals", x => x.id);
                });

            migrationBuilder.CreateTable(
                name: "audit",
                columns: table => new
                {
                    id = table.Column<long>(type: "bigint", nullable: false)
                        .Annotation("Npgsql:ValueGenerationStrategy", NpgsqlValueGenerationStrategy.IdentityByDefaultColumn),
                    at = table.Column<Instant>(type: "timestamp with time zone", nullable: false),
                    by = table.Column<string>(type: "text", nullable: false),
                    thing = table.Column<string>(type: "text", nullable: true),
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
                    mail_from = table.Column<string>(type: "text", nullable: false),
                    report_key = table.Column<string>(type: "text", nullable: true),
                    reports_taken = table.Column<bool>(type: "boolean", nullable: false),
                    report_mailbox = table.Column<string>(type: "text", nullable: true),
                    report_mailbox_encryption = table.Column<string>(type: "text", nullable: false),
                    report_mailbox_user = table.Column<string>(type: "text", nullable: true),
                    report_mailbox_secret = table.Column<string>(type: "text", nullable: true),
                    report_mailbox_error = table.Column<string>(type: "text", nullable: true),
                    mail_failing_since = table.Column<Instant>(type: "timestamp with time zone", nullable: true),
                    mail_last_error = table.Column<string>(type: "text", nullable: true),
                    mail_last_good_at = table.Column<Instant>(type: "timestamp with time zone", nullable: true),
                    push_public_key = table.Column<string>(type: "text", nullable: true),
                    push_private_key = table.Column<string>(type: "text", nullable: true),
                    body_days = table.Column<int>(type: "integer", nullable: false),
                    arrival_days = table.Column<int>(type: "integer", nullable: false),
                    row_months = table.Column<int>(type: "integer", nullable: false),
                    rota_version = table.Column<long>(type: "bigint", nullable: false),
                    brand_colour = table.Column<string>(type: "text", nullable: false),
                    brand_accent = table.Column<string>(type: "text", nullable: false),
                    brand_header = table.Column<string>(type: "text", nullable: false),
                    brand_footer = table.Column<string>(type: "text", nullable: false),
                    logo = table.Column<byte[]>(type: "bytea", nullable: true),
                    quiet = table.Column<string>(type: "jsonb", nullable: false, defaultValueSql: "'[]'"),
                    hours = table.Column<string>(type: "jsonb", nullable: false, defaultValueSql: "'[]'"),
                    holidays = table.Column<string>(type: "jsonb", nullable: false, defaultValueSql: "'[]'"),
                    own_fields = table.Column<string>(type: "jsonb", nullable: false, defaultValueSql: "'[]'"),
                    quiet_passes = table.Column<string>(type: "text", nullable: false),
                    instruction_rights = table.Column<string>(type: "jsonb", nullable: false, defaultValueSql: "'[]'")
                },
                constraints: table =>
                {
                    table.PrimaryKey("pk_business", x => x.id);
                });

            migrationBuilder.CreateTable(
                name: "contact_codes",
                columns: table => new
                {
                    id = table.Column<long>(type: "bigint", nullable: false)
                        .Annotation("Npgsql:ValueGenerationStrategy", NpgsqlValueGenerationStrategy.IdentityByDefaultColumn),
                    person = table.Column<string>(type: "text", nullable: false),
                    channel = table.Column<string>(type: "text", nullable: false),
                    address = table.Column<string>(type: "text", nullable: false),
                    hash = table.Column<byte[]>(type: "bytea", nullable: false),
                    expires_at = table.Column<Instant>(type: "timestamp with time zone", nullable: false),
                    wrong = table.Column<int>(type: "integer", nullable: false)
                },
                constraints: table =>
                {
                    table.PrimaryKey("pk_contact_codes", x => x.id);
                });

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
                name: "early_receipts",
                columns: table => new
                {
                    id = table.Column<long>(type: "bigint", nullable: false)
                        .Annotation("Npgsql:ValueGenerationStrategy", NpgsqlValueGenerationStrategy.IdentityByDefaultColumn),
                    gateway = table.Column<string>(type: "text", nullable: false),
                    far_id = table.Column<string>(type: "text", nullable: false),
                    kind = table.Column<string>(type: "text", nullable: false),
                    words = table.Column<string>(type: "text", nullable: false),
                    at = table.Column<Instant>(type: "timestamp with time zone", nullable: false)
                },
                constraints: table =>
                {
                    table.PrimaryKey("pk_early_receipts", x => x.id);
                });

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
                    crowd = table.Column<bool>(type: "boolean", nullable: false, defaultValue: false),
                    set_aside_at = table.Column<Instant>(type: "timestamp with time zone", nullable: true),
                    decided_late = table.Column<bool>(type: "boolean", nullable: false, defaultValue: false),
                    problem = table.Column<string>(type: "text", nullable: true),
                    tries = table.Column<int>(type: "integer", nullable: false),
                    came_by = table.Column<string>(type: "text", nullable: true),
                    caused_by = table.Column<Guid>(type: "uuid", nullable: true),
                    tell = table.Column<string>(type: "jsonb", nullable: true)
                },
                constraints: table =>
                {
                    table.PrimaryKey("pk_events", x => x.id);
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
                    per_minute = table.Column<int>(type: "integer", nullable: true),
                    encryption = table.Column<string>(type: "text", nullable: false),
                    ehlo = table.Column<string>(type: "text", nullable: true),
                    authority = table.Column<string>(type: "text", nullable: true),
                    pin = table.Column<string>(type: "text", nullable: true),
                    user = table.Column<string>(type: "text", nullable: true),
                    token_address = table.Column<string>(type: "text", nullable: true),
                    client_id = table.Column<string>(type: "text", nullable: true),
                    scope = table.Column<string>(type: "text", nullable: true),
                    dkim_selector = table.Column<string>(type: "text", nullable: true),
                    dkim_key = table.Column<string>(type: "text", nullable: true),
                    segment_cost = table.Column<decimal>(type: "numeric", nullable: true),
                    monthly_budget = table.Column<decimal>(type: "numeric", nullable: true),
                    echo_minutes = table.Column<int>(type: "integer", nullable: true),
                    echo_to = table.Column<string>(type: "text", nullable: true),
                    echo_missed_since = table.Column<Instant>(type: "timestamp with time zone", nullable: true),
                    echo_sent_at = table.Column<Instant>(type: "timestamp with time zone", nullable: true),
                    echo_back_at = table.Column<Instant>(type: "timestamp with time zone", nullable: true),
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
                name: "instructions",
                columns: table => new
                {
                    id = table.Column<Guid>(type: "uuid", nullable: false),
                    seq = table.Column<long>(type: "bigint", nullable: false),
                    order_number = table.Column<string>(type: "text", nullable: true),
                    source = table.Column<string>(type: "text", nullable: false),
                    lane = table.Column<string>(type: "text", nullable: false),
                    kind = table.Column<string>(type: "text", nullable: false),
                    with = table.Column<string>(type: "json", nullable: false),
                    state = table.Column<string>(type: "text", nullable: false),
                    waits = table.Column<string>(type: "text", nullable: true),
                    by = table.Column<string>(type: "text", nullable: false),
                    person = table.Column<string>(type: "text", nullable: true),
                    rule_id = table.Column<string>(type: "text", nullable: true),
                    rule_version = table.Column<int>(type: "integer", nullable: true),
                    alert_id = table.Column<Guid>(type: "uuid", nullable: true),
                    event_id = table.Column<long>(type: "bigint", nullable: true),
                    depth = table.Column<int>(type: "integer", nullable: false),
                    urgency = table.Column<string>(type: "text", nullable: false),
                    because = table.Column<string>(type: "text", nullable: true),
                    tell = table.Column<string>(type: "jsonb", nullable: true),
                    trial = table.Column<bool>(type: "boolean", nullable: false),
                    asked_at = table.Column<Instant>(type: "timestamp with time zone", nullable: false),
                    order_seq = table.Column<long>(type: "bigint", nullable: false),
                    due_at = table.Column<Instant>(type: "timestamp with time zone", nullable: false),
                    deadline = table.Column<Instant>(type: "timestamp with time zone", nullable: false),
                    sight = table.Column<Duration>(type: "interval", nullable: false),
                    patience = table.Column<Duration>(type: "interval", nullable: false),
                    lease = table.Column<Guid>(type: "uuid", nullable: true),
                    lease_until = table.Column<Instant>(type: "timestamp with time zone", nullable: true),
                    tries = table.Column<int>(type: "integer", nullable: false),
                    may_be_twice = table.Column<bool>(type: "boolean", nullable: false),
                    handed = table.Column<bool>(type: "boolean", nullable: false),
                    taken_at = table.Column<Instant>(type: "timestamp with time zone", nullable: true),
                    seen_at = table.Column<Instant>(type: "timestamp with time zone", nullable: true),
                    seen_event = table.Column<long>(type: "bigint", nullable: true),
                    ended_at = table.Column<Instant>(type: "timestamp with time zone", nullable: true),
                    words = table.Column<string>(type: "text", nullable: true),
                    approved_by = table.Column<string>(type: "text", nullable: true),
                    told = table.Column<string>(type: "text", nullable: true)
                },
                constraints: table =>
                {
                    table.PrimaryKey("pk_instructions", x => x.id);
                });

            migrationBuilder.CreateTable(
                name: "kept_drafts",
                columns: table => new
                {
                    rule_id = table.Column<string>(type: "text", nullable: false),
                    by = table.Column<string>(type: "text", nullable: false),
                    form = table.Column<string>(type: "json", nullable: false),
                    base_version = table.Column<int>(type: "integer", nullable: false),
                    at = table.Column<Instant>(type: "timestamp with time zone", nullable: false)
                },
                constraints: table =>
                {
                    table.PrimaryKey("pk_kept_drafts", x => new { x.rule_id, x.by });
                });

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
                name: "listing_rows",
                columns: table => new
                {
                    source = table.Column<string>(type: "text", nullable: false),
                    key = table.Column<string>(type: "text", nullable: false),
                    cells = table.Column<string>(type: "json", nullable: false),
                    digest = table.Column<long>(type: "bigint", nullable: false)
                },
                constraints: table =>
                {
                    table.PrimaryKey("pk_listing_rows", x => new { x.source, x.key });
                });

            migrationBuilder.CreateTable(
                name: "listing_runs",
                columns: table => new
                {
                    id = table.Column<Guid>(type: "uuid", nullable: false),
                    source = table.Column<string>(type: "text", nullable: false),
                    at = table.Column<Instant>(type: "timestamp with time zone", nullable: false),
                    by = table.Column<string>(type: "text", nullable: false),
                    state = table.Column<string>(type: "text", nullable: false),
                    rows = table.Column<int>(type: "integer", nullable: false),
                    @new = table.Column<int>(name: "new", type: "integer", nullable: false),
                    changed = table.Column<int>(type: "integer", nullable: false),
                    gone = table.Column<int>(type: "integer", nullable: false),
                    bad = table.Column<int>(type: "integer", nullable: false),
                    baseline = table.Column<bool>(type: "boolean", nullable: false),
                    reason = table.Column<string>(type: "text", nullable: true),
                    content = table.Column<byte[]>(type: "bytea", nullable: true),
                    charset = table.Column<string>(type: "text", nullable: true),
                    hash = table.Column<byte[]>(type: "bytea", nullable: false),
                    ended_at = table.Column<Instant>(type: "timestamp with time zone", nullable: true),
                    edits = table.Column<string>(type: "jsonb", nullable: false, defaultValueSql: "'{}'"),
                    shown = table.Column<string>(type: "jsonb", nullable: true)
                },
                constraints: table =>
                {
                    table.PrimaryKey("pk_listing_runs", x => x.id);
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
                name: "missed_orders",
                columns: table => new
                {
                    source = table.Column<string>(type: "text", nullable: false),
                    order = table.Column<string>(type: "text", nullable: false),
                    kind = table.Column<string>(type: "text", nullable: false),
                    there = table.Column<string>(type: "text", nullable: true),
                    here = table.Column<string>(type: "text", nullable: true),
                    since = table.Column<Instant>(type: "timestamp with time zone", nullable: false),
                    there_at = table.Column<Instant>(type: "timestamp with time zone", nullable: true),
                    runs = table.Column<int>(type: "integer", nullable: false),
                    counts = table.Column<bool>(type: "boolean", nullable: false),
                    row = table.Column<string>(type: "json", nullable: true),
                    aside = table.Column<string>(type: "text", nullable: true),
                    aside_by = table.Column<string>(type: "text", nullable: true)
                },
                constraints: table =>
                {
                    table.PrimaryKey("pk_missed_orders", x => new { x.source, x.order });
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
                    due_at = table.Column<Instant>(type: "timestamp with time zone", nullable: true),
                    total = table.Column<decimal>(type: "numeric", nullable: true),
                    currency = table.Column<string>(type: "text", nullable: true),
                    risk = table.Column<short>(type: "smallint", nullable: false),
                    risk_score = table.Column<decimal>(type: "numeric", nullable: true),
                    hold_reason = table.Column<string>(type: "text", nullable: true),
                    sites = table.Column<string[]>(type: "text[]", nullable: false),
                    salesperson = table.Column<string>(type: "text", nullable: true),
                    told_by = table.Column<string[]>(type: "text[]", nullable: false, defaultValueSql: "'{}'"),
                    changed_at = table.Column<Instant>(type: "timestamp with time zone", nullable: false),
                    search = table.Column<string>(type: "text", nullable: false)
                },
                constraints: table =>
                {
                    table.PrimaryKey("pk_orders", x => x.number);
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

            migrationBuilder.CreateTable(
                name: "people",
                columns: table => new
                {
                    id = table.Column<string>(type: "text", nullable: false),
                    name = table.Column<string>(type: "text", nullable: false),
                    email = table.Column<string>(type: "text", nullable: true),
                    language = table.Column<string>(type: "text", nullable: false),
                    post = table.Column<string>(type: "text", nullable: true),
                    outside = table.Column<bool>(type: "boolean", nullable: false),
                    archived_at = table.Column<Instant>(type: "timestamp with time zone", nullable: true),
                    teams = table.Column<List<string>>(type: "text[]", nullable: false),
                    codes = table.Column<List<string>>(type: "text[]", nullable: false, defaultValueSql: "'{}'"),
                    opt_outs = table.Column<string>(type: "jsonb", nullable: false, defaultValueSql: "'[]'"),
                    quiet = table.Column<string>(type: "jsonb", nullable: false, defaultValueSql: "'[]'"),
                    away = table.Column<string>(type: "jsonb", nullable: false, defaultValueSql: "'[]'"),
                    first = table.Column<string>(type: "jsonb", nullable: false, defaultValueSql: "'{}'")
                },
                constraints: table =>
                {
                    table.PrimaryKey("pk_people", x => x.id);
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
                name: "reading_versions",
                columns: table => new
                {
                    source = table.Column<string>(type: "text", nullable: false),
                    version = table.Column<int>(type: "integer", nullable: false),
                    document = table.Column<string>(type: "json", nullable: false),
                    saved_at = table.Column<Instant>(type: "timestamp with time zone", nullable: false),
                    by = table.Column<string>(type: "text", nullable: false)
                },
                constraints: table =>
                {
                    table.PrimaryKey("pk_reading_versions", x => new { x.source, x.version });
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
                    saved_by = table.Column<string>(type: "text", nullable: false),
                    note = table.Column<string>(type: "text", nullable: true),
                    off_until = table.Column<Instant>(type: "timestamp with time zone", nullable: true)
                },
                constraints: table =>
                {
                    table.PrimaryKey("pk_rule_versions", x => new { x.rule_id, x.version });
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

            migrationBuilder.CreateTable(
                name: "sessions",
                columns: table => new
                {
                    hash = table.Column<byte[]>(type: "bytea", nullable: false),
                    user_id = table.Column<Guid>(type: "uuid", nullable: false),
                    ticket = table.Column<byte[]>(type: "bytea", nullable: false),
                    expires_at = table.Column<Instant>(type: "timestamp with time zone", nullable: false)
                },
                constraints: table =>
                {
                    table.PrimaryKey("pk_sessions", x => x.hash);
                });

            migrationBuilder.CreateTable(
                name: "shifts",
                columns: table => new
                {
                    id = table.Column<Guid>(type: "uuid", nullable: false),
                    team = table.Column<string>(type: "text", nullable: false),
                    uid = table.Column<string>(type: "text", nullable: false),
                    people = table.Column<List<string>>(type: "text[]", nullable: false),
                    component = table.Column<string>(type: "text", nullable: false),
                    wall_clock = table.Column<bool>(type: "boolean", nullable: false)
                },
                constraints: table =>
                {
                    table.PrimaryKey("pk_shifts", x => x.id);
                });

            migrationBuilder.CreateTable(
                name: "sites",
                columns: table => new
                {
                    id = table.Column<string>(type: "text", nullable: false),
                    name = table.Column<string>(type: "text", nullable: false),
                    manager = table.Column<string>(type: "text", nullable: true),
                    team = table.Column<string>(type: "text", nullable: true),
                    printer = table.Column<string>(type: "text", nullable: true)
                },
                constraints: table =>
                {
                    table.PrimaryKey("pk_sites", x => x.id);
                });

            migrationBuilder.CreateTable(
                name: "source_hours",
                columns: table => new
                {
                    source = table.Column<string>(type: "text", nullable: false),
                    hour = table.Column<Instant>(type: "timestamp with time zone", nullable: false),
                    events = table.Column<int>(type: "integer", nullable: false)
                },
                constraints: table =>
                {
                    table.PrimaryKey("pk_source_hours", x => new { x.source, x.hour });
                });

            migrationBuilder.CreateTable(
                name: "source_keys",
                columns: table => new
                {
                    id = table.Column<Guid>(type: "uuid", nullable: false),
                    source = table.Column<string>(type: "text", nullable: false),
                    hash = table.Column<byte[]>(type: "bytea", nullable: false),
                    start = table.Column<string>(type: "text", nullable: false),
                    created_at = table.Column<Instant>(type: "timestamp with time zone", nullable: false),
                    revoked_at = table.Column<Instant>(type: "timestamp with time zone", nullable: true)
                },
                constraints: table =>
                {
                    table.PrimaryKey("pk_source_keys", x => x.id);
                });

            migrationBuilder.CreateTable(
                name: "sources",
                columns: table => new
                {
                    id = table.Column<string>(type: "text", nullable: false),
                    name = table.Column<string>(type: "text", nullable: false),
                    kind = table.Column<string>(type: "text", nullable: false),
                    on = table.Column<bool>(type: "boolean", nullable: false, defaultValue: true),
                    prefix = table.Column<string>(type: "text", nullable: false, defaultValue: ""),
                    limit = table.Column<int>(type: "integer", nullable: false, defaultValue: 100),
                    proof = table.Column<string>(type: "jsonb", nullable: false, defaultValueSql: "'{}'"),
                    secret = table.Column<string>(type: "text", nullable: true),
                    old_secret = table.Column<string>(type: "text", nullable: true),
                    old_secret_until = table.Column<Instant>(type: "timestamp with time zone", nullable: true),
                    reading = table.Column<string>(type: "json", nullable: true),
                    reading_version = table.Column<int>(type: "integer", nullable: false, defaultValue: 0),
                    listing = table.Column<string>(type: "jsonb", nullable: true),
                    instructions_to = table.Column<string>(type: "text", nullable: true),
                    takes = table.Column<string[]>(type: "text[]", nullable: false, defaultValueSql: "'{}'"),
                    own_instructions = table.Column<string>(type: "jsonb", nullable: false, defaultValueSql: "'[]'"),
                    instructions_secret = table.Column<string>(type: "text", nullable: true),
                    sight_seconds = table.Column<int>(type: "integer", nullable: true),
                    try_seconds = table.Column<int>(type: "integer", nullable: true),
                    intake_closed = table.Column<bool>(type: "boolean", nullable: false, defaultValue: false),
                    intake_since = table.Column<Instant>(type: "timestamp with time zone", nullable: true),
                    intake_until = table.Column<Instant>(type: "timestamp with time zone", nullable: true),
                    intake_reason = table.Column<string>(type: "text", nullable: true),
                    intake_hours = table.Column<string>(type: "jsonb", nullable: true),
                    silence = table.Column<string>(type: "jsonb", nullable: false, defaultValueSql: "'{}'"),
                    created_at = table.Column<Instant>(type: "timestamp with time zone", nullable: false),
                    removed_at = table.Column<Instant>(type: "timestamp with time zone", nullable: true),
                    last_at = table.Column<Instant>(type: "timestamp with time zone", nullable: true),
                    silent_since = table.Column<Instant>(type: "timestamp with time zone", nullable: true),
                    fetch_tag = table.Column<string>(type: "text", nullable: true),
                    fetch_modified = table.Column<string>(type: "text", nullable: true),
                    fetched_at = table.Column<Instant>(type: "timestamp with time zone", nullable: true),
                    fetch_failures = table.Column<int>(type: "integer", nullable: false, defaultValue: 0),
                    fetch_problem = table.Column<string>(type: "text", nullable: true)
                },
                constraints: table =>
                {
                    table.PrimaryKey("pk_sources", x => x.id);
                });

            migrationBuilder.CreateTable(
                name: "statuses",
                columns: table => new
                {
                    id = table.Column<string>(type: "text", nullable: false),
                    name = table.Column<string>(type: "text", nullable: false),
                    mark = table.Column<string>(type: "text", nullable: false),
                    tone = table.Column<string>(type: "text", nullable: true),
                    position = table.Column<int>(type: "integer", nullable: false),
                    kind = table.Column<string>(type: "text", nullable: false),
                    follows = table.Column<string[]>(type: "text[]", nullable: false, defaultValueSql: "'{}'"),
                    words = table.Column<string[]>(type: "text[]", nullable: false),
                    customer_sees = table.Column<string>(type: "text", nullable: true),
                    allowed_minutes = table.Column<int>(type: "integer", nullable: true),
                    backlog_limit = table.Column<int>(type: "integer", nullable: true),
                    backlog_since = table.Column<Instant>(type: "timestamp with time zone", nullable: true)
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
                    name = table.Column<string>(type: "text", nullable: false),
                    may_opt_out = table.Column<bool>(type: "boolean", nullable: false, defaultValue: true),
                    hours = table.Column<string>(type: "jsonb", nullable: false, defaultValueSql: "'[]'")
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
                name: "wordings",
                columns: table => new
                {
                    id = table.Column<string>(type: "text", nullable: false),
                    name = table.Column<string>(type: "text", nullable: false),
                    texts = table.Column<string>(type: "jsonb", nullable: false, defaultValueSql: "'[]'"),
                    saved_at = table.Column<Instant>(type: "timestamp with time zone", nullable: false),
                    saved_by = table.Column<string>(type: "text", nullable: false)
                },
                constraints: table =>
                {
                    table.PrimaryKey("pk_wordings", x => x.id);
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
                    done_by = table.Column<Instant>(type: "timestamp with time zone", nullable: true),
                    paused_by = table.Column<int>(type: "integer", nullable: true),
                    paused_at = table.Column<Instant>(type: "timestamp with time zone", nullable: true),
                    began_at = table.Column<Instant>(type: "timestamp with time zone", nullable: false),
                    stood = table.Column<Duration>(type: "interval", nullable: false, defaultValueSql: "interval '0'"),
                    stopped_at = table.Column<Instant>(type: "timestamp with time zone", nullable: true),
                    held_until = table.Column<Instant>(type: "timestamp with time zone", nullable: true),
                    waits_until = table.Column<Instant>(type: "timestamp with time zone", nullable: true),
                    put_off = table.Column<int>(type: "integer", nullable: false, defaultValue: 0),
                    unreached = table.Column<int>(type: "integer", nullable: false, defaultValue: 0),
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
                    at = table.Column<Instant>(type: "timestamp with time zone", nullable: false),
                    noticed_at = table.Column<Instant>(type: "timestamp with time zone", nullable: true)
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
                name: "instruction_attempts",
                columns: table => new
                {
                    instruction_id = table.Column<Guid>(type: "uuid", nullable: false),
                    number = table.Column<int>(type: "integer", nullable: false),
                    at = table.Column<Instant>(type: "timestamp with time zone", nullable: false),
                    ended_at = table.Column<Instant>(type: "timestamp with time zone", nullable: true),
                    outcome = table.Column<string>(type: "text", nullable: false),
                    code = table.Column<string>(type: "text", nullable: true),
                    reply = table.Column<string>(type: "text", nullable: true)
                },
                constraints: table =>
                {
                    table.PrimaryKey("pk_instruction_attempts", x => new { x.instruction_id, x.number });
                    table.ForeignKey(
                        name: "fk_instruction_attempts_instructions_instruction_id",
                        column: x => x.instruction_id,
                        principalTable: "instructions",
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
                    position = table.Column<int>(type: "integer", nullable: false),
                    verified = table.Column<bool>(type: "boolean", nullable: false),
                    pending = table.Column<bool>(type: "boolean", nullable: false),
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
                    feed = table.Column<string>(type: "text", nullable: true),
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
                    rung = table.Column<int>(type: "integer", nullable: false, defaultValue: 0),
                    aim = table.Column<string>(type: "text", nullable: true),
                    due_at = table.Column<Instant>(type: "timestamp with time zone", nullable: false),
                    fired_at = table.Column<Instant>(type: "timestamp with time zone", nullable: true),
                    cause = table.Column<string>(type: "text", nullable: false),
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
                    audience = table.Column<string>(type: "text", nullable: false, defaultValue: "staff"),
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
                    chain = table.Column<Guid>(type: "uuid", nullable: true),
                    gathers_until = table.Column<Instant>(type: "timestamp with time zone", nullable: true),
                    paused_by = table.Column<int>(type: "integer", nullable: true),
                    urgent = table.Column<bool>(type: "boolean", nullable: false, defaultValue: false),
                    passed_over = table.Column<List<string>>(type: "text[]", nullable: false, defaultValueSql: "'{}'"),
                    bare = table.Column<bool>(type: "boolean", nullable: false, defaultValue: false),
                    twice_attempt = table.Column<int>(type: "integer", nullable: true),
                    far_id = table.Column<string>(type: "text", nullable: true),
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
                    gateway_id = table.Column<string>(type: "text", nullable: true),
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
                name: "messages",
                columns: table => new
                {
                    delivery_id = table.Column<Guid>(type: "uuid", nullable: false),
                    subject = table.Column<string>(type: "text", nullable: false),
                    text = table.Column<string>(type: "text", nullable: false),
                    html = table.Column<string>(type: "text", nullable: true),
                    size = table.Column<int>(type: "integer", nullable: true),
                    files = table.Column<int>(type: "integer", nullable: false, defaultValue: 0),
                    attach = table.Column<string>(type: "text", nullable: true),
                    hash = table.Column<byte[]>(type: "bytea", nullable: true)
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
                columns: new[] { "id", "arrival_days", "base_address", "body_days", "brand_accent", "brand_colour", "brand_footer", "brand_header", "currency", "holidays", "hours", "instruction_rights", "logo", "mail_failing_since", "mail_from", "mail_last_error", "mail_last_good_at", "mail_server", "name", "own_fields", "push_private_key", "push_public_key", "quiet", "quiet_passes", "report_key", "report_mailbox", "report_mailbox_encryption", "report_mailbox_error", "report_mailbox_secret", "report_mailbox_user", "reports_taken", "rota_version", "row_months", "time_zone" },
                values: new object[] { 1, 30, "http://127.0.0.1:5080", 90, "#4B4799", "#12343B", "", "", "EUR", "[]", "[{\"days\":[1,2,3,4,5],\"from\":\"08:00:00\",\"to\":\"18:00:00\"}]", "[]", null, null, "sirena@localhost.localdomain", null, null, "127.0.0.1:25", "Our order desk", "[]", null, null, "[]", "urgent", null, null, "tls", null, null, null, false, 0L, 25, "Europe/Lisbon" });

            migrationBuilder.InsertData(
                table: "rule_book",
                columns: new[] { "id", "version" },
                values: new object[] { 1, 0L });

            migrationBuilder.CreateIndex(
                name: "ix_alert_steps_due",
                table: "alert_steps",
                column: "due_at",
                filter: "fired_at is null");

            migrationBuilder.CreateIndex(
                name: "ix_alerts_burning",
                table: "alerts",
                columns: new[] { "state", "raised_at" },
                filter: "state in ('open','taken','lapsed')");

            migrationBuilder.CreateIndex(
                name: "ix_alerts_done_by",
                table: "alerts",
                column: "done_by",
                filter: "state = 'taken' and done_by is not null");

            migrationBuilder.CreateIndex(
                name: "ix_alerts_event_id",
                table: "alerts",
                column: "event_id");

            migrationBuilder.CreateIndex(
                name: "ix_alerts_lapsed",
                table: "alerts",
                column: "ended_at",
                filter: "state = 'lapsed'");

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
                name: "ix_alerts_paused_by",
                table: "alerts",
                column: "paused_by",
                filter: "paused_by is not null");

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
                name: "ix_alerts_unreached",
                table: "alerts",
                column: "raised_at",
                filter: "unreached > 0");

            migrationBuilder.CreateIndex(
                name: "ix_alerts_waits",
                table: "alerts",
                column: "waits_until",
                filter: "state = 'open'");

            migrationBuilder.CreateIndex(
                name: "ix_answer_links_alert_id",
                table: "answer_links",
                column: "alert_id");

            migrationBuilder.CreateIndex(
                name: "ix_answer_links_contact_code",
                table: "answer_links",
                columns: new[] { "contact", "code" });

            migrationBuilder.CreateIndex(
                name: "ix_answers_alert_id",
                table: "answers",
                column: "alert_id");

            migrationBuilder.CreateIndex(
                name: "ix_answers_at",
                table: "answers",
                column: "at");

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
                name: "ix_arrivals_at",
                table: "arrivals",
                column: "at")
                .Annotation("Npgsql:IndexMethod", "brin");

            migrationBuilder.CreateIndex(
                name: "ix_arrivals_id",
                table: "arrivals",
                column: "id",
                filter: "state = 'not-understood'");

            migrationBuilder.CreateIndex(
                name: "ix_arrivals_source_hash",
                table: "arrivals",
                columns: new[] { "source", "hash" },
                filter: "hash is not null");

            migrationBuilder.CreateIndex(
                name: "ix_arrivals_source_id",
                table: "arrivals",
                columns: new[] { "source", "id" });

            migrationBuilder.CreateIndex(
                name: "ix_arrivals_source_id1",
                table: "arrivals",
                columns: new[] { "source", "id" },
                filter: "state = 'waiting'");

            migrationBuilder.CreateIndex(
                name: "ix_arrivals_source_state_id",
                table: "arrivals",
                columns: new[] { "source", "state", "id" });

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
                name: "ix_audit_thing_id",
                table: "audit",
                columns: new[] { "thing", "id" });

            migrationBuilder.CreateIndex(
                name: "ix_contact_codes_person",
                table: "contact_codes",
                column: "person");

            migrationBuilder.CreateIndex(
                name: "ix_contact_points_address",
                table: "contact_points",
                column: "address");

            migrationBuilder.CreateIndex(
                name: "ix_contact_points_person_id",
                table: "contact_points",
                column: "person_id");

            migrationBuilder.CreateIndex(
                name: "ix_deliveries_alert_id",
                table: "deliveries",
                column: "alert_id");

            migrationBuilder.CreateIndex(
                name: "ix_deliveries_chain",
                table: "deliveries",
                column: "chain",
                filter: "chain is not null");

            migrationBuilder.CreateIndex(
                name: "ix_deliveries_due",
                table: "deliveries",
                columns: new[] { "channel", "urgent", "due_at" },
                filter: "state = 'waiting'");

            migrationBuilder.CreateIndex(
                name: "ix_deliveries_far_id",
                table: "deliveries",
                column: "far_id",
                filter: "far_id is not null");

            migrationBuilder.CreateIndex(
                name: "ix_deliveries_gathering",
                table: "deliveries",
                column: "gathers_until",
                filter: "gathers_until is not null and state = 'waiting'");

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
                name: "ix_deliveries_paused_by",
                table: "deliveries",
                column: "paused_by",
                filter: "paused_by is not null");

            migrationBuilder.CreateIndex(
                name: "ix_deliveries_person",
                table: "deliveries",
                columns: new[] { "person", "created_at", "id" });

            migrationBuilder.CreateIndex(
                name: "ix_deliveries_state",
                table: "deliveries",
                columns: new[] { "state", "created_at", "id" });

            migrationBuilder.CreateIndex(
                name: "ix_early_receipts_far_id",
                table: "early_receipts",
                column: "far_id");

            migrationBuilder.CreateIndex(
                name: "ix_events_aside",
                table: "events",
                column: "set_aside_at",
                filter: "set_aside_at is not null");

            migrationBuilder.CreateIndex(
                name: "ix_events_id",
                table: "events",
                column: "id",
                filter: "decided_at is null and not crowd");

            migrationBuilder.CreateIndex(
                name: "ix_events_order_number_seq",
                table: "events",
                columns: new[] { "order_number", "seq" },
                filter: "order_number is not null");

            migrationBuilder.CreateIndex(
                name: "ix_events_received",
                table: "events",
                column: "received")
                .Annotation("Npgsql:IndexMethod", "brin");

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
                name: "ix_events_undecided_subject",
                table: "events",
                column: "subject",
                filter: "decided_at is null and order_number is null");

            migrationBuilder.CreateIndex(
                name: "ix_instructions_asked_at",
                table: "instructions",
                column: "asked_at",
                filter: "not trial and told is distinct from state and state in ('refused', 'unseen', 'failed', 'dropped')");

            migrationBuilder.CreateIndex(
                name: "ix_instructions_asked_at_id",
                table: "instructions",
                columns: new[] { "asked_at", "id" });

            migrationBuilder.CreateIndex(
                name: "ix_instructions_asked_at1",
                table: "instructions",
                column: "asked_at",
                filter: "not trial and state in ('refused', 'unseen', 'failed')");

            migrationBuilder.CreateIndex(
                name: "ix_instructions_asked_at2",
                table: "instructions",
                column: "asked_at",
                filter: "waits is not null and state = 'asked'");

            migrationBuilder.CreateIndex(
                name: "ix_instructions_due",
                table: "instructions",
                column: "due_at",
                filter: "state = 'asked'");

            migrationBuilder.CreateIndex(
                name: "ix_instructions_order_number_seq",
                table: "instructions",
                columns: new[] { "order_number", "seq" });

            migrationBuilder.CreateIndex(
                name: "ix_instructions_rule_id_asked_at",
                table: "instructions",
                columns: new[] { "rule_id", "asked_at" },
                filter: "rule_id is not null");

            migrationBuilder.CreateIndex(
                name: "ix_instructions_taken",
                table: "instructions",
                column: "taken_at",
                filter: "state = 'taken'");

            migrationBuilder.CreateIndex(
                name: "ix_instructions_to_see",
                table: "instructions",
                column: "lane",
                filter: "state in ('asked', 'taken', 'unseen', 'failed')");

            migrationBuilder.CreateIndex(
                name: "ix_instructions_under_way",
                table: "instructions",
                columns: new[] { "lane", "seq" },
                filter: "state in ('asked', 'taken')");

            migrationBuilder.CreateIndex(
                name: "ix_listing_runs_at",
                table: "listing_runs",
                column: "at",
                filter: "state = 'waits'");

            migrationBuilder.CreateIndex(
                name: "ix_listing_runs_source_at",
                table: "listing_runs",
                columns: new[] { "source", "at" });

            migrationBuilder.CreateIndex(
                name: "ix_marked_messages_far_id",
                table: "marked_messages",
                column: "far_id");

            migrationBuilder.CreateIndex(
                name: "ix_matches_late",
                table: "matches",
                column: "at",
                filter: "outcome = 'too-late' and noticed_at is null");

            migrationBuilder.CreateIndex(
                name: "ix_matches_rule_id_at",
                table: "matches",
                columns: new[] { "rule_id", "at" });

            migrationBuilder.CreateIndex(
                name: "ix_missed_orders_open",
                table: "missed_orders",
                column: "counts",
                filter: "counts and aside is null");

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
                name: "ix_orders_due_at_number",
                table: "orders",
                columns: new[] { "due_at", "number" });

            migrationBuilder.CreateIndex(
                name: "ix_orders_due_at_number1",
                table: "orders",
                columns: new[] { "due_at", "number" },
                filter: "open")
                .Annotation("Npgsql:IndexInclude", new[] { "status" });

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
                name: "ix_orders_search",
                table: "orders",
                column: "search")
                .Annotation("Npgsql:IndexMethod", "gin")
                .Annotation("Npgsql:IndexOperators", new[] { "gin_trgm_ops" });

            migrationBuilder.CreateIndex(
                name: "ix_pauses_until",
                table: "pauses",
                column: "until",
                filter: "ended_at is null");

            migrationBuilder.CreateIndex(
                name: "ix_push_subscriptions_person",
                table: "push_subscriptions",
                column: "person");

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
                name: "ix_schedules_next_at",
                table: "schedules",
                column: "next_at");

            migrationBuilder.CreateIndex(
                name: "ix_sessions_expires_at",
                table: "sessions",
                column: "expires_at");

            migrationBuilder.CreateIndex(
                name: "ix_sessions_user_id",
                table: "sessions",
                column: "user_id");

            migrationBuilder.CreateIndex(
                name: "ix_shifts_team_uid",
                table: "shifts",
                columns: new[] { "team", "uid" });

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

            // Rows of the queue are updated in their page (heap-only): the room for it.
            migrationBuilder.Sql("alter table deliveries set (fillfactor = 70); alter table attempts set (fillfactor = 70)");
        }

        /// <inheritdoc />
        protected override void Down(MigrationBuilder migrationBuilder)
        {
            migrationBuilder.DropTable(
                name: "alert_steps");

            migrationBuilder.DropTable(
                name: "answer_links");

            migrationBuilder.DropTable(
                name: "answers");

            migrationBuilder.DropTable(
                name: "api_tokens");

            migrationBuilder.DropTable(
                name: "arrivals");

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
                name: "contact_codes");

            migrationBuilder.DropTable(
                name: "contact_points");

            migrationBuilder.DropTable(
                name: "customer_refusals");

            migrationBuilder.DropTable(
                name: "daily_figures");

            migrationBuilder.DropTable(
                name: "data_protection_keys");

            migrationBuilder.DropTable(
                name: "early_receipts");

            migrationBuilder.DropTable(
                name: "event_kinds");

            migrationBuilder.DropTable(
                name: "gateway_spend");

            migrationBuilder.DropTable(
                name: "gateways");

            migrationBuilder.DropTable(
                name: "instruction_attempts");

            migrationBuilder.DropTable(
                name: "kept_drafts");

            migrationBuilder.DropTable(
                name: "ladders");

            migrationBuilder.DropTable(
                name: "listing_rows");

            migrationBuilder.DropTable(
                name: "listing_runs");

            migrationBuilder.DropTable(
                name: "marked_messages");

            migrationBuilder.DropTable(
                name: "matches");

            migrationBuilder.DropTable(
                name: "message_files");

            migrationBuilder.DropTable(
                name: "messages");

            migrationBuilder.DropTable(
                name: "missed_orders");

            migrationBuilder.DropTable(
                name: "note_pictures");

            migrationBuilder.DropTable(
                name: "notices");

            migrationBuilder.DropTable(
                name: "one_time_links");

            migrationBuilder.DropTable(
                name: "orders");

            migrationBuilder.DropTable(
                name: "pauses");

            migrationBuilder.DropTable(
                name: "push_subscriptions");

            migrationBuilder.DropTable(
                name: "reading_versions");

            migrationBuilder.DropTable(
                name: "receipts");

            migrationBuilder.DropTable(
                name: "rule_book");

            migrationBuilder.DropTable(
                name: "rule_versions");

            migrationBuilder.DropTable(
                name: "schedules");

            migrationBuilder.DropTable(
                name: "seen_calls");

            migrationBuilder.DropTable(
                name: "seen_fields");

            migrationBuilder.DropTable(
                name: "senders");

            migrationBuilder.DropTable(
                name: "sessions");

            migrationBuilder.DropTable(
                name: "shifts");

            migrationBuilder.DropTable(
                name: "sites");

            migrationBuilder.DropTable(
                name: "source_hours");

            migrationBuilder.DropTable(
                name: "source_keys");

            migrationBuilder.DropTable(
                name: "sources");

            migrationBuilder.DropTable(
                name: "statuses");

            migrationBuilder.DropTable(
                name: "teams");

            migrationBuilder.DropTable(
                name: "wordings");

            migrationBuilder.DropTable(
                name: "users");

            migrationBuilder.DropTable(
                name: "people");

            migrationBuilder.DropTable(
                name: "instructions");

            migrationBuilder.DropTable(
                name: "deliveries");

            migrationBuilder.DropTable(
                name: "alerts");

            migrationBuilder.DropTable(
                name: "events");

            migrationBuilder.DropSequence(
                name: "instruction_seq");
        }
    }
}
