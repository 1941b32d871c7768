using System.Numerics;
using System.Text.Json.Nodes;
using Eidolon.Core.Geometry;
using Eidolon.Core.Markers;
using Eidolon.Core.Operations;
using Eidolon.Core.Skeletons;

namespace Eidolon.Core.Tests;

/// <summary>Made-up skeletons and motions.</summary>
internal static class Samples
{
    public static Motion Random(int seed, int joints = 9, int frames = 12, bool moving = true, bool turnedRest = true)
    {
        var random = new Random(seed);
        float F() => random.NextSingle() - 0.5f;
        Quaternion Q() => Quaternion.Normalize(new Quaternion(F(), F(), F(), F() + 0.6f));
        var list = Enumerable
            .Range(0, joints)
            .Select(i => new Joint($"joint {i}", i == 0 ? -1 : random.Next(i), new Vector3(F(), F(), F()))
            {
                RestRotation = turnedRest ? Q() : Quaternion.Identity,
            })
            .ToArray();
        var motion = new Motion(new Skeleton(list), 120, frames);
        for (var k = 0; k < motion.Rotations.Length; k++)
        {
            motion.Rotations[k] = Q();
            motion.Translations[k] =
                k % joints == 0 || (moving && k % joints == 3) ? new Vector3(F() * 4, F(), F() * 4) : list[k % joints].Offset;
        }

        return motion;
    }

    /// <summary>Largest distance of a joint between two motions on trees with the same names, millimetres.</summary>
    public static double Worst(Motion a, Motion b)
    {
        Assert.Equal(a.FrameCount, b.FrameCount);
        var p = ForwardKinematics.WorldPositions(a);
        var q = ForwardKinematics.WorldPositions(b);
        double worst = 0;
        for (var j = 0; j < a.Skeleton.Count; j++)
        {
            var other = b.Skeleton.IndexOf(a.Skeleton[j].Name.Replace(' ', '_'));
            other = other < 0 ? b.Skeleton.IndexOf(a.Skeleton[j].Name) : other;
            Assert.True(other >= 0, a.Skeleton[j].Name);
            for (var f = 0; f < a.FrameCount; f++)
            {
                worst = Math.Max(worst, (p[(f * a.Skeleton.Count) + j] - q[(f * b.Skeleton.Count) + other]).Length() * 1000);
            }
        }

        return worst;
    }

    /// <summary>The same bytes with something broken, many ways: cut short, noise, wrong digits.</summary>
    public static IEnumerable<byte[]> Broken(byte[] good, int count, int seed)
    {
        var random = new Random(seed);
        for (var i = 0; i < count; i++)
        {
            var copy = (byte[])good.Clone();
            switch (i % 4)
            {
                case 0:
                    copy = copy[..random.Next(copy.Length)];
                    break;
                case 1:
                    for (var k = 0; k < 1 + random.Next(20); k++)
                    {
                        copy[random.Next(copy.Length)] = (byte)random.Next(256);
                    }

                    break;
                case 2:
                    var at = random.Next(copy.Length);
                    random.NextBytes(copy.AsSpan(at, Math.Min(copy.Length - at, random.Next(400))));
                    break;
                default:
                    // The first part, where the counts are, is worth most of the noise.
                    copy[random.Next(Math.Min(copy.Length, 1200))] = (byte)random.Next(256);
                    break;
            }

            yield return copy;
        }
    }

    /// <summary>An operation on markers alone.</summary>
    public static MarkerTake Operate(MarkerTake take, string operation, JsonObject parameters, OperationContext context) =>
        ((MarkerValue)OperationRegistry.Find(operation).Run(new OperationInput(new MarkerValue(take)), parameters, context).Value).Take;
}
