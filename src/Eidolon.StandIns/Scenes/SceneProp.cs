using System.Numerics;
using Eidolon.Core.Skeletons;

namespace Eidolon.StandIns.Scenes;

/// <summary>A prop of a scene: held by a joint of a performer, or on a path of its own.</summary>
/// <param name="Path">Place and turn in the world over time, seconds; null when it is held.</param>
/// <param name="InHand">Place and turn against the joint that holds it.</param>
internal sealed record SceneProp(
    string Name,
    int Holder,
    BodyRole Joint,
    Func<float, (Vector3 At, Quaternion Turn)>? Path = null,
    (Vector3 At, Quaternion Turn)? InHand = null
);
