namespace Eidolon.Core.Inertial;

/// <summary>Where in a suit's recording its wearer held still, stood in the T-pose facing +Z, and stood in the A-pose.</summary>
public sealed record SuitPoses(FrameRange Still, FrameRange TPose, FrameRange APose);
