namespace Eidolon.Core.Skeletons;

/// <summary>The one grouping of the body: lanes, tables, labels taken off by part, and what is tracked live all go by it.</summary>
public enum BodySection
{
    /// <summary>Neck, head, jaw and eyes.</summary>
    Head,

    /// <summary>Pelvis, spine and chest.</summary>
    Trunk,

    /// <summary>Collarbone to forearm.</summary>
    Arm,

    /// <summary>Wrist and fingers.</summary>
    Hand,

    /// <summary>Hip to toes.</summary>
    Leg,
}
