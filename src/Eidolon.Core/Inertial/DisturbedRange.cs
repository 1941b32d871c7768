using Eidolon.Core.Skeletons;

namespace Eidolon.Core.Inertial;

/// <summary>Frames, both inside, in which the magnetic field at a bone was not the one of the room: its heading came from the gyroscope alone.</summary>
/// <param name="Microtesla">The most by which the field was off.</param>
public readonly record struct DisturbedRange(BodyRole Bone, int Start, int End, double Microtesla);
