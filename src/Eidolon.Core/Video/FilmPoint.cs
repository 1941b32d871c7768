using System.Numerics;
using Eidolon.Core.Skeletons;

namespace Eidolon.Core.Video;

/// <summary>A point of a body that a film's tracker names.</summary>
/// <param name="Place">Against the joint in the T-pose facing +Z, as a share of the stature.</param>
/// <param name="Spread">How far it may be off on a person, metres.</param>
public sealed record FilmPoint(string Name, BodyRole Joint, Vector3 Place, float Spread);
