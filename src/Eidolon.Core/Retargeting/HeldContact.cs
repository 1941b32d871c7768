using Eidolon.Core.Skeletons;

namespace Eidolon.Core.Retargeting;

/// <summary>A planted range on the character and how far the joint slid over the floor in it.</summary>
public sealed record HeldContact(BodyRole Role, string Joint, int Start, int End, double SlideMillimetres);
