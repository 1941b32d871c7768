namespace Eidolon.Core.Hands;

/// <summary>How well hands were found.</summary>
/// <param name="Fingers">Ten, left thumb first.</param>
/// <param name="Off">Where a finger cannot be where it was seen, the longest first.</param>
/// <param name="Warnings">What a person should know.</param>
public sealed record HandReport(IReadOnlyList<FingerReport> Fingers, IReadOnlyList<FingerOff> Off, IReadOnlyList<string> Warnings);

/// <summary>How well one finger was found.</summary>
/// <param name="Seen">Share of the frames in which something was seen of it; where nothing was, it is filled.</param>
/// <param name="Millimetres">Mean distance of what was seen from the pose; NaN when nothing was.</param>
/// <param name="Size">Its length against the average hand of that stature.</param>
public sealed record FingerReport(char Side, string Finger, double Seen, double Millimetres, double Size);

/// <summary>A stretch in which a finger cannot be where it was seen: it would bend backwards, or its marker is another's.</summary>
/// <param name="Start">First frame.</param>
/// <param name="End">Last frame, inside.</param>
/// <param name="Millimetres">How far at the worst frame.</param>
/// <param name="With">The finger whose marker it would fit; empty when there is none.</param>
public sealed record FingerOff(char Side, string Finger, int Start, int End, double Millimetres, string With);
