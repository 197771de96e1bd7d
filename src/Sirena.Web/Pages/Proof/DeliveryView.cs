using Sirena.Engine;
using Sirena.Engine.Trail;
using Sirena.Web.Pages.Shared;

namespace Sirena.Web.Pages.Proof;

/// <summary>A delivery's details, as Proof and the order's trail show them.</summary>
/// <param name="Trail">The delivery with its tries and news.</param>
/// <param name="Around">For names.</param>
/// <param name="Clock">For times.</param>
/// <param name="MayChange">Whether it may be sent again from here.</param>
/// <param name="SeesMessage">Whether the message itself is shown.</param>
public sealed record DeliveryView(DeliveryTrail Trail, Surroundings Around, DeskTime Clock, bool MayChange, bool SeesMessage);
