using System.Numerics;
using Eidolon.Core.Characters;
using Eidolon.Core.Formats.Gltf;
using Eidolon.StandIns.Characters;

namespace Eidolon.Core.Tests.Characters;

/// <summary>Bones that came without a body are seen, each where it is, from outside.</summary>
public sealed class BoneFigureTests
{
    [Fact]
    public void Every_bone_has_a_block_of_its_own_that_reaches_from_joint_to_joint_and_shows_its_outside()
    {
        var s = GltfReader.Read(HarbourCharacters.Build("Stevedore"), "stevedore.glb").Skeleton;
        var mesh = BoneFigure.Of(s);
        for (var c = 1; c < s.Count; c++)
        {
            var (a, b) = (s.RestPositions[s.Parents[c]], s.RestPositions[c]);
            if (Vector3.Distance(a, b) < 0.005f)
            {
                continue;
            }

            var own = mesh.Positions.Where((_, v) => mesh.Joints[v].A == s.Parents[c]).ToList();
            Assert.Contains(own, p => Vector3.Distance(p, a) < 1e-5f);
            Assert.Contains(own, p => Vector3.Distance(p, b) < 1e-5f);
        }

        Assert.All(mesh.Weights, w => Assert.Equal(Vector4.UnitX, w));
        // Seen from outside a closed block holds something; from inside it would hold less than nothing.
        for (var t = 0; t < mesh.Triangles.Length; t += 24)
        {
            double volume = 0;
            for (var k = t; k < t + 24; k += 3)
            {
                var (p, q, r) = (mesh.Positions[k], mesh.Positions[k + 1], mesh.Positions[k + 2]);
                var from = mesh.Positions[t];
                volume += Vector3.Dot(p - from, Vector3.Cross(q - from, r - from)) / 6;
                Assert.True(Vector3.Dot(mesh.Normals[k], Vector3.Cross(q - p, r - p)) > 0);
            }

            Assert.True(volume > 0, $"block {t / 24}: {volume}");
        }
    }
}
