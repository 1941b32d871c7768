using Eidolon.Core.Skeletons;

namespace Eidolon.StandIns.Scenes;

/// <summary>A prop held by a joint of a performer.</summary>
internal sealed record SceneProp(string Name, int Holder, BodyRole Joint);
