using System.Text.Json.Serialization;
using System.Threading.RateLimiting;
using Microsoft.AspNetCore.Authentication;
using Microsoft.AspNetCore.DataProtection;
using Microsoft.AspNetCore.DataProtection.KeyManagement;
using Microsoft.AspNetCore.HttpOverrides;
using Microsoft.AspNetCore.Identity;
using Microsoft.AspNetCore.RateLimiting;
using NodaTime;
using NodaTime.Serialization.SystemTextJson;
using OpenTelemetry.Metrics;
using OpenTelemetry.Resources;
using Sirena.Core;
using Sirena.Engine;
using Sirena.Storage;
using Sirena.Storage.Access;
using Sirena.Web.Access;
using Sirena.Web.Api;
using Sirena.Web.Live;
using Sirena.Web.Pages.Shared;

namespace Sirena.Web;

/// <summary>Puts the application together.</summary>
public static class SirenaApp
{
    private const string EitherScheme = "session-or-token";

    /// <summary>Builds it.</summary>
    public static WebApplication Build(string[] args, ServeSettings settings)
    {
        var builder = WebApplication.CreateBuilder(
            new WebApplicationOptions
            {
                Args = args,
                ApplicationName = typeof(SirenaApp).Assembly.GetName().Name,
                ContentRootPath = AppContext.BaseDirectory,
                WebRootPath = WebRoot(),
            }
        );
        builder.WebHost.ConfigureKestrel(kestrel =>
        {
            kestrel.AddServerHeader = false;
            kestrel.Limits.MaxRequestBodySize = 8 * 1024 * 1024;
        });
        builder
            .Logging.SetMinimumLevel(LogLevel.Warning)
            .AddFilter("Microsoft.Hosting.Lifetime", LogLevel.Information)
            .AddFilter("Sirena", LogLevel.Information)
            .AddFilter("Sirena.Web.Access", LogLevel.Warning)
            .AddFilter("Microsoft.AspNetCore.Antiforgery", LogLevel.Error)
            .AddFilter("Microsoft.EntityFrameworkCore.Database.Command", LogLevel.Critical); // a statement that fails throws, and whoever asked for it says so
        builder.Host.ConfigureHostOptions(host => host.ShutdownTimeout = TimeSpan.FromSeconds(8));
        AddServices(builder.Services, settings);
        var app = builder.Build();
        Configure(app);
        return app;
    }

    /// <summary>Brings the database up to date and, where it holds nobody yet, prints the link that sets it up.</summary>
    public static async Task PrepareAsync(WebApplication app, ServeSettings settings)
    {
        ArgumentNullException.ThrowIfNull(settings);
        await Database.MigrateAsync(app.Services);
        await app.Services.GetRequiredService<Engine.Dispatch.PushBook>().MakeKeysAsync(CancellationToken.None);
        await FirstStart.PrintLinkAsync(app.Services, app.Configuration["urls"] ?? "http://127.0.0.1:5080");
    }

    // Beside the program where it is published, else in the sources above it.
    private static string WebRoot()
    {
        for (var at = new DirectoryInfo(AppContext.BaseDirectory); at is not null; at = at.Parent)
        {
            var sources = Path.Combine(at.FullName, "src", "Sirena.Web", "wwwroot");
            if (Directory.Exists(sources))
            {
                return sources;
            }
        }

        return Path.Combine(AppContext.BaseDirectory, "wwwroot");
    }

    private static void AddServices(IServiceCollection services, ServeSettings settings)
    {
        services.AddSingleton(new Channels.Http.OutsideHosts(settings.Inside));
        services.AddSingleton(new Channels.Mail.SenderRecords(settings.NameServer));
        services.AddSingleton(new Channels.Mail.MailServerSearch(settings.NameServer));
        services.AddSingleton(new Engine.Sources.SourceFolders(settings.Folders));
        services.AddSirenaEngine(settings.Database, settings.Clock, settings.Reports);
        services.AddSingleton(settings.Key);
        services.AddDataProtection().SetApplicationName("sirena").PersistKeysToDbContext<SirenaDb>();
        services.Configure<KeyManagementOptions>(options => options.XmlEncryptor = new KeyFileEncryptor(settings.Key));
        AddSignIn(services);
        services.AddSingleton<Pages.Settings.SettingsMail>();
        services.AddSingleton<LiveFeed>();
        services.AddSingleton<StripReader>();
        services.AddSingleton<Pages.People.DarkestRule>();
        services.ConfigureHttpJsonOptions(options =>
        {
            options.SerializerOptions.ConfigureForNodaTime(DateTimeZoneProviders.Tzdb);
            options.SerializerOptions.Converters.Add(new JsonStringEnumConverter());
            options.SerializerOptions.Encoder = System.Text.Encodings.Web.JavaScriptEncoder.UnsafeRelaxedJsonEscaping;
        });
        services.AddProblemDetails(options => options.CustomizeProblemDetails = context => context.ProblemDetails.Extensions.Remove("traceId"));
        services.AddAntiforgery(options =>
        {
            options.HeaderName = "X-Sirena-Form";
            options.Cookie.Name = "sirena.form";
            options.Cookie.SecurePolicy = CookieSecurePolicy.SameAsRequest;
        });
        services.AddRazorPages(o => o.Conventions.ConfigureFilter(new FilledForm())).AddMvcOptions(o => o.ModelMetadataDetailsProviders.Add(new EmptyTexts()));
        services.AddSingleton(new KnownHosts(settings.Hosts));
        services.Configure<ForwardedHeadersOptions>(options =>
        {
            // What a proxy says of the caller is believed only of the proxies that are named.
            options.ForwardedHeaders =
                settings.Proxies.Count == 0
                    ? ForwardedHeaders.None
                    : ForwardedHeaders.XForwardedFor | ForwardedHeaders.XForwardedProto | ForwardedHeaders.XForwardedHost;
            options.ForwardLimit = null;
            options.KnownProxies.Clear();
            options.KnownIPNetworks.Clear();
            foreach (var network in settings.Proxies)
            {
                options.KnownIPNetworks.Add(network);
            }
        });
        services.AddOpenApi("v1");
        services.AddHealthChecks();
        services
            .AddOpenTelemetry()
            .ConfigureResource(resource => resource.AddService("sirena"))
            .WithMetrics(metrics => metrics.AddMeter("Microsoft.AspNetCore.Hosting", "Npgsql", NodeFigures.MeterName).AddPrometheusExporter());
        services.AddRateLimiter(limits =>
        {
            limits.RejectionStatusCode = 429;
            limits.AddPolicy("answers", http =>
                RateLimitPartition.GetFixedWindowLimiter(http.Connection.RemoteIpAddress?.ToString() ?? "", _ => new FixedWindowRateLimiterOptions
                {
                    PermitLimit = 240,
                    Window = TimeSpan.FromMinutes(1),
                })
            );
            limits.AddPolicy("sign-in", http =>
                RateLimitPartition.GetFixedWindowLimiter(
                    http.Request.Method == HttpMethods.Post ? http.Connection.RemoteIpAddress?.ToString() ?? "" : "reading",
                    key => new FixedWindowRateLimiterOptions { PermitLimit = key == "reading" ? 100_000 : 30, Window = TimeSpan.FromMinutes(1) }
                )
            );
        });
    }

    private static void AddSignIn(IServiceCollection services)
    {
        services
            .AddAuthentication(options =>
            {
                options.DefaultScheme = EitherScheme;
                options.DefaultChallengeScheme = EitherScheme;
            })
            .AddPolicyScheme(EitherScheme, null, options =>
                options.ForwardDefaultSelector = http =>
                    TokenScheme.Bearer(http.Request) is not null ? TokenScheme.SchemeName : IdentityConstants.ApplicationScheme
            )
            .AddScheme<AuthenticationSchemeOptions, TokenScheme>(TokenScheme.SchemeName, null)
            .AddIdentityCookies();
        services
            .AddIdentityCore<User>(options =>
            {
                options.Password.RequiredLength = 10;
                options.Password.RequireDigit =
                    options.Password.RequireLowercase =
                    options.Password.RequireUppercase =
                    options.Password.RequireNonAlphanumeric =
                        false;
                options.User.RequireUniqueEmail = true;

                // Names are mail addresses, of which many hold more than the letters and signs that are usual here.
                options.User.AllowedUserNameCharacters = "";
                options.Lockout.MaxFailedAccessAttempts = 8;
                options.Lockout.DefaultLockoutTimeSpan = TimeSpan.FromMinutes(5);
            })
            .AddEntityFrameworkStores<SirenaDb>()
            .AddSignInManager()
            .AddDefaultTokenProviders()
            .AddPasswordValidator<PasswordRule>()
            .AddClaimsPrincipalFactory<SessionClaims>();
        services.AddSingleton<DatabaseSessions>().AddSingleton<KeptForms>().AddSingleton<DeveloperLinks>();
        services
            .AddOptions<Microsoft.AspNetCore.Authentication.Cookies.CookieAuthenticationOptions>(IdentityConstants.ApplicationScheme)
            .Configure<DatabaseSessions>((options, sessions) => options.SessionStore = sessions);
        services.Configure<SecurityStampValidatorOptions>(options => options.ValidationInterval = TimeSpan.FromMinutes(1));
        services.ConfigureApplicationCookie(options =>
        {
            options.Cookie.Name = "sirena.session";
            options.Cookie.HttpOnly = true;
            options.Cookie.SameSite = SameSiteMode.Lax;
            options.Cookie.SecurePolicy = CookieSecurePolicy.SameAsRequest;
            options.ExpireTimeSpan = TimeSpan.FromHours(12);
            options.LoginPath = "/sign-in";
            options.AccessDeniedPath = "/not-allowed";
            options.Events.OnRedirectToLogin = context =>
                RefuseAsync(
                    context.HttpContext,
                    context.Response,
                    context.RedirectUri,
                    401,
                    "Sign in first.",
                    "Send a person's token: 'Authorization: Bearer <token>'."
                );
            options.Events.OnRedirectToAccessDenied = context =>
                RefuseAsync(context.HttpContext, context.Response, context.RedirectUri, 403, "Your role does not allow this.", "Ask a supervisor.");
        });
        services
            .AddAuthorizationBuilder()
            .SetFallbackPolicy(new Microsoft.AspNetCore.Authorization.AuthorizationPolicyBuilder().RequireAuthenticatedUser().Build())
            .AddPolicy(Policies.Change, policy => policy.RequireRole(Role.Supervisor.Name()))
            .AddPolicy(Policies.SeeAll, policy => policy.RequireRole(Role.Supervisor.Name(), Role.Reader.Name()));
    }

    // A person is sent to the sign-in page; a program gets the status and a sentence.
    private static async Task RefuseAsync(HttpContext http, HttpResponse response, string page, int status, string title, string detail)
    {
        if (http.Request.Path.StartsWithSegments("/api") || http.Request.Path.StartsWithSegments("/live"))
        {
            await Problems.Of(status, title, detail).ExecuteAsync(http);
        }
        else if (status == 401 && http.Request.Headers.ContainsKey("HX-Request"))
        {
            // A part of a page is not replaced by a sign-in: the page says so and stays as it is.
            response.StatusCode = status;
        }
        else if (status == 401 && HttpMethods.IsPost(http.Request.Method))
        {
            response.StatusCode = StatusCodes.Status307TemporaryRedirect;
            response.Headers.Location = "/sign-in/kept?return=" + Uri.EscapeDataString(http.Request.Path + http.Request.QueryString);
        }
        else
        {
            response.Redirect(page);
        }
    }

    private static void Configure(WebApplication app)
    {
        app.UseExceptionHandler(errors => errors.Run(http => Failure.AnswerAsync(http)));
        app.UseStatusCodePages(Failure.ExplainAsync);
        app.UseForwardedHeaders();
        app.Use(KnownHosts.CheckAsync);
        app.Use(SafeHeaders.AddAsync);
        app.UseStaticFiles();
        app.UseStaticFiles(
            new StaticFileOptions
            {
                RequestPath = "/guide/pictures",
                FileProvider = new Microsoft.Extensions.FileProviders.PhysicalFileProvider(
                    Directory.CreateDirectory(Path.Combine(Pages.Guide.IndexModel.Folder, "pictures")).FullName
                ),
            }
        );
        app.UseRouting();

        // Taken before a page reads anything: what changes while it is drawn is newer than its stamp.
        app.Use(
            (http, next) =>
            {
                http.Items["news"] = http.RequestServices.GetRequiredService<LiveFeed>().Stamp;
                return next();
            }
        );
        app.UseAuthentication();
        app.UseAuthorization();
        app.UseRateLimiter();
        app.Use(ApiForm.CheckAsync);
        app.Use(Health.GuardMetricsAsync);
        app.MapRazorPages();
        app.MapEvents();
        app.MapCalls();
        app.MapSources();
        app.MapListings();
        app.MapOrders();
        app.MapInstructions();
        app.MapRules();
        app.MapTrails();
        app.MapPeople();
        app.MapWho();
        app.MapWordings();
        app.MapRehearsals();
        app.MapGateways();
        app.MapStatuses();
        app.MapPush();
        app.MapLive();
        app.MapWhen();
        Pages.Shared.PeoplePick.Map(app);
        app.MapOpenApi("/openapi/{documentName}.json").RequireAuthorization();
        app.MapHealth();
        app.MapPrometheusScrapingEndpoint("/metrics").AllowAnonymous();
    }
}
