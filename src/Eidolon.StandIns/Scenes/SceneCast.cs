using Eidolon.StandIns.Acting;
using Eidolon.StandIns.People;

namespace Eidolon.StandIns.Scenes;

/// <summary>One performer of a scene and what they do.</summary>
internal sealed record SceneCast(Person Person, Choreography Choreography);
