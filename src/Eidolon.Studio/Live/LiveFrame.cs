using System.Numerics;
using Eidolon.Core.Markers;

namespace Eidolon.Studio.Live;

/// <summary>One frame as it is seen on the Stage.</summary>
/// <param name="Number">The ring's frame.</param>
/// <param name="Clock">The ring's clock, seconds.</param>
/// <param name="At">Studio clock when its last packet came, seconds.</param>
/// <param name="Slots">Places of the points, NaN where a slot is empty.</param>
/// <param name="Props">Subject id and pose of every prop.</param>
public sealed record LiveFrame(uint Number, double Clock, double At, Vector3[] Slots, IReadOnlyList<(int Id, RigidPose Pose)> Props);
