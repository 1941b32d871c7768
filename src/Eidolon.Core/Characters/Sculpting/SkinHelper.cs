namespace Eidolon.Core.Characters.Sculpting;

/// <summary>
/// A bone of the skin alone: it stands where a joint stands and takes a share of its turn, so that a sharp bend keeps the limb's thickness. It is
/// no joint of the skeleton; whoever poses the skeleton poses it along.
/// </summary>
/// <param name="Name">Name in the file.</param>
/// <param name="Joint">Index of the joint it takes its share of; both hang on the same parent.</param>
/// <param name="Share">Which share, 0 to 1.</param>
public sealed record SkinHelper(string Name, int Joint, float Share);
