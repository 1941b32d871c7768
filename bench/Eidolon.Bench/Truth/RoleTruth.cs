using System.Globalization;
using System.Numerics;
using Eidolon.Core.Characters;
using Eidolon.Core.Geometry;
using Eidolon.Core.Hands;
using Eidolon.Core.Skeletons;

namespace Eidolon.Bench.Truth;

/// <summary>Roles of rigs of many habits: names in several languages and in none, spines of one to six, with and without what is not needed, any pose, size, facing.</summary>
internal static class RoleTruth
{
    /// <summary>How a rig calls its joints; the role's stem, its side, the joint's number.</summary>
    private static readonly (string Habit, Func<string, char, int, string> Name)[] Habits = [("English, side before", (s, side, _) => (
                side == 'C' ? ""
                : side == 'L' ? "Left"
                : "Right"
            ) + English(s)), ("English, side behind", (s, side, _) => English(s).ToLowerInvariant()
            + (
                side == 'C' ? ""
                : side == 'L' ? "_l"
                : "_r"
            )), ("English, prefix", (s, side, _) => "quay01:" + (side == 'C' ? "" : side + "_") + English(s)), ("English, dots", (s, side, _) => "rig." + English(s) + (side == 'C' ? "" : "." + side)), ("German", (s, side, _) => German(
                s
            )
            + (
                side == 'C' ? ""
                : side == 'L' ? "_links"
                : "_rechts"
            )), ("French", (s, side, _) => French(s)
            + (
                side == 'C' ? ""
                : side == 'L' ? "_gauche"
                : "_droite"
            )), ("Spanish", (s, side, _) => Spanish(s)
            + (
                side == 'C' ? ""
                : side == 'L' ? "_izq"
                : "_der"
            )), ("numbers", (_, _, k) => (k + 1).ToString("000", CultureInfo.InvariantCulture)), ("words that say nothing", (_, _, k) => "plank" + ((k * 37) % 101).ToString(CultureInfo.InvariantCulture))];

    public static void Run()
    {
        Console.WriteLine("roles: habit | rigs | needed roles right, asked, missing (told), silently wrong | rigs with a wrong one");
        var random = new Random(7);
        foreach (var (habit, name) in Habits)
        {
            var (right, asked, missing, wrong, rigs, bad) = (0, 0, 0, 0, 0, new List<string>());
            var mistaken = new Dictionary<BodyRole, int>();
            foreach (var (what, skeleton) in Rigs(random))
            {
                rigs++;
                var truth = skeleton
                    .Joints.Select((j, k) => (j.Role, k))
                    .Where(x => x.Role is not null)
                    .ToDictionary(x => x.Role!.Value, x => x.k);
                var names = Unique(
                    skeleton.Joints.Select(
                        (j, k) => j.Role is { } r ? name(BodyRoles.Stem(r), BodyRoles.Side(r), k) : name("Helper" + k, 'C', k)
                    )
                );
                var found = RoleFinder.Find(new Skeleton(skeleton.Joints.Select((j, k) => j with { Name = names[k], Role = null })));
                var own = 0;
                foreach (var role in BodyRoles.Required)
                {
                    if (!found.Roles.TryGetValue(role, out var joint))
                    {
                        missing++;
                    }
                    else if (joint == names[truth[role]])
                    {
                        right++;
                    }
                    else if (found.Asked.Any(q => q.Role == role))
                    {
                        asked++;
                    }
                    else
                    {
                        own++;
                        mistaken[role] = mistaken.GetValueOrDefault(role) + 1;
                    }
                }

                wrong += own;
                if (own > 0)
                {
                    bad.Add(what);
                }
            }

            Console.WriteLine(
                $"  {habit, -24} {rigs, 4}  {right, 6} {asked, 4} {missing, 4} {wrong, 4}   {string.Join(", ", bad.Take(4))}{(bad.Count > 4 ? $" and {bad.Count - 4} more" : "")} {string.Join(" ", mistaken.Select(m => $"{m.Key} {m.Value}"))}"
            );
        }
    }

    private static IEnumerable<(string What, Skeleton Skeleton)> Rigs(Random random)
    {
        var count = 0;
        foreach (var spine in new[] { 1, 2, 3, 4, 5, 6 })
        {
            foreach (var parts in Enumerable.Range(0, 8))
            {
                foreach (var (pose, lowered) in new[] { ("T", 0), ("A", 45), ("down", 78) })
                {
                    var (clavicles, toes, fingers) = (parts % 2 == 0, parts / 2 % 2 == 0, parts / 4 % 2 == 0);
                    var stature = 1.1f + (0.9f * random.NextSingle());
                    var yaw = random.Next(4) * Math.PI / 2;
                    var unit = new[] { 1f, 100f, 39.37f, .1f }[random.Next(4)];
                    var body = Body(stature, spine, clavicles, toes, fingers, random);
                    var upZ = ++count % 4 == 0;
                    yield return (
                        $"{(upZ ? "Z up, " : "")}{spine} spine{(clavicles ? " collarbones" : "")}{(toes ? " toes" : "")}{(fingers ? " fingers" : "")} {pose} {stature:0.0} m × {unit}",
                        Stood(body, lowered, yaw, unit, upZ)
                    );
                }
            }
        }
    }

    /// <summary>A body with a spine of so many joints, without what is left out, with twist and cloth joints now and then.</summary>
    private static Skeleton Body(float stature, int spine, bool clavicles, bool toes, bool fingers, Random random)
    {
        var whole = Anthropometry.Body(stature, 0.9f + (0.2f * random.NextSingle()));
        if (fingers)
        {
            whole = HandSkeleton.With(whole, HandShape.Average('L', stature * .105f), HandShape.Average('R', stature * .105f));
        }

        var joints = new List<Joint>();
        var at = new List<Vector3>();
        var of = new Dictionary<int, int>();
        int Add(string name, int parent, Vector3 place, BodyRole? role)
        {
            joints.Add(new Joint(name, parent, place - (parent < 0 ? Vector3.Zero : at[parent])) { Role = role });
            at.Add(place);
            return joints.Count - 1;
        }

        var (twists, cloth) = (random.Next(2) == 0, random.Next(2) == 0);
        var chest = whole.RestPositions[whole.IndexOf(BodyRole.Chest)];
        var pelvis = whole.RestPositions[whole.IndexOf(BodyRole.Pelvis)];
        for (var j = 0; j < whole.Count; j++)
        {
            var role = whole[j].Role;
            var parent = whole.Parents[j] < 0 ? -1 : of[whole.Parents[j]];
            var place = whole.RestPositions[j];
            var skip =
                role is BodyRole.SpineLower or BodyRole.SpineMid or BodyRole.SpineUpper
                || (!clavicles && role is BodyRole.ClavicleL or BodyRole.ClavicleR && !clavicles)
                || (!toes && role is BodyRole.ToesL or BodyRole.ToesR);
            if (skip)
            {
                of[j] = parent;
                continue;
            }

            if (role == BodyRole.Chest)
            {
                for (var k = 1; k < spine; k++)
                {
                    BodyRole? own = k switch
                    {
                        1 => BodyRole.SpineLower,
                        2 => BodyRole.SpineMid,
                        3 => BodyRole.SpineUpper,
                        _ => null,
                    };
                    parent = Add($"s{k}", parent, Vector3.Lerp(pelvis, chest, (float)k / spine), own);
                }
            }

            of[j] = Add($"j{j}", parent, place, role);
            if (twists && role is BodyRole.UpperArmL or BodyRole.UpperArmR && twists)
            {
                var end = whole.RestPositions[whole.IndexOf(role == BodyRole.UpperArmL ? BodyRole.ForearmL : BodyRole.ForearmR)];
                Add(
                    $"t{j}",
                    of[j],
                    Vector3.Lerp(place, end, .5f),
                    role == BodyRole.UpperArmL ? BodyRole.UpperArmTwistL : BodyRole.UpperArmTwistR
                );
            }
        }

        if (cloth)
        {
            for (var k = 0; k < 3; k++)
            {
                var top = Add($"c{k}", of[whole.IndexOf(BodyRole.Pelvis)], pelvis + new Vector3((k - 1) * .1f, -.1f, -.12f), null);
                Add($"d{k}", top, pelvis + new Vector3((k - 1) * .13f, -.35f * stature / 1.7f, -.14f), null);
            }
        }

        return new Skeleton(joints);
    }

    /// <param name="upZ">As files have it whose up axis is Z.</param>
    private static Skeleton Stood(Skeleton s, double lowered, double yaw, float unit, bool upZ)
    {
        var stand = (upZ ? Rotations.AboutAxis(0, Math.PI / 2) : Quaternion.Identity) * Rotations.AboutAxis(1, yaw);
        return new(
            s.Joints.Select(j =>
                j with
                {
                    Offset = (j.Parent < 0 ? Vector3.Transform(j.Offset, stand) : j.Offset) * unit,
                    RestRotation =
                        j.Parent < 0 ? stand
                        : j.Role == BodyRole.UpperArmL ? Rotations.AboutAxis(2, -lowered * Math.PI / 180)
                        : j.Role == BodyRole.UpperArmR ? Rotations.AboutAxis(2, lowered * Math.PI / 180)
                        : Quaternion.Identity,
                }
            )
        );
    }

    private static string[] Unique(IEnumerable<string> names)
    {
        var seen = new Dictionary<string, int>(StringComparer.Ordinal);
        return [.. names.Select(n => seen.TryAdd(n, 1) ? n : $"{n}_{++seen[n]}")];
    }

    private static string English(string stem) =>
        stem switch
        {
            "Pelvis" => "Hips",
            "SpineLower" => "Spine1",
            "SpineMid" => "Spine2",
            "SpineUpper" => "Spine3",
            "Clavicle" => "Shoulder",
            "UpperArm" => "Arm",
            "Forearm" => "ForeArm",
            "Thigh" => "UpLeg",
            "Shin" => "Leg",
            "Toes" => "ToeBase",
            _ => stem,
        };

    private static string German(string stem) =>
        stem switch
        {
            "Pelvis" => "Becken",
            "SpineLower" => "Wirbel1",
            "SpineMid" => "Wirbel2",
            "SpineUpper" => "Wirbel3",
            "Chest" => "Brust",
            "Neck" => "Hals",
            "Head" => "Kopf",
            "Clavicle" => "Schluesselbein",
            "UpperArm" => "Oberarm",
            "Forearm" => "Unterarm",
            "Hand" => "Hand",
            "Thigh" => "Oberschenkel",
            "Shin" => "Unterschenkel",
            "Foot" => "Fuss",
            "Toes" => "Zehen",
            _ => "Teil" + stem,
        };

    private static string French(string stem) =>
        stem switch
        {
            "Pelvis" => "bassin",
            "SpineLower" => "colonne1",
            "SpineMid" => "colonne2",
            "SpineUpper" => "colonne3",
            "Chest" => "poitrine",
            "Neck" => "cou",
            "Head" => "tete",
            "Clavicle" => "clavicule",
            "UpperArm" => "bras",
            "Forearm" => "avantbras",
            "Hand" => "main",
            "Thigh" => "cuisse",
            "Shin" => "jambe",
            "Foot" => "pied",
            "Toes" => "orteils",
            _ => "piece" + stem,
        };

    private static string Spanish(string stem) =>
        stem switch
        {
            "Pelvis" => "pelvis",
            "SpineLower" => "columna1",
            "SpineMid" => "columna2",
            "SpineUpper" => "columna3",
            "Chest" => "pecho",
            "Neck" => "cuello",
            "Head" => "cabeza",
            "Clavicle" => "clavicula",
            "UpperArm" => "brazo",
            "Forearm" => "antebrazo",
            "Hand" => "mano",
            "Thigh" => "muslo",
            "Shin" => "pierna",
            "Foot" => "pie",
            "Toes" => "dedos_pie",
            _ => "pieza" + stem,
        };
}
