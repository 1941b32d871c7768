namespace Eidolon.Core.Quality;

/// <summary>How far one joint, or one marker, is apart in two motions of one performance, over the frames that both have.</summary>
/// <param name="Name">Its role; a marker's name.</param>
/// <param name="MeanDegrees">Of the bone that begins there, its turn away from rest; null for a marker.</param>
public sealed record JointDifference(string Name, double MeanMillimetres, double MaxMillimetres, double? MeanDegrees);
