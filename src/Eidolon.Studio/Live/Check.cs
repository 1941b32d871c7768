namespace Eidolon.Studio.Live;

/// <summary>One line of "Before you record".</summary>
/// <param name="State">good, again or wait.</param>
/// <param name="Reason">Why it is not good, and what to do.</param>
public sealed record Check(string Key, string Name, string State, string Value, string Reason);
