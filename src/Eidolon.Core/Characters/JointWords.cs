using System.Collections.Frozen;

namespace Eidolon.Core.Characters;

/// <summary>Words that rigs call their joints by: English, German, French, Spanish, Italian; letters without accents.</summary>
/// <remarks>What means something else in another language is left out: a French "main" is mostly an English one.</remarks>
internal static class JointWords
{
    private static readonly (string Meaning, string Words)[] All =
    [
        ("Pelvis", "pelvis hips becken bassin cadera bacino"),
        ("Spine", "spine back abdomen belly waist lumbar torso wirbel ruecken rucken bauch colonne dos columna espalda colonna schiena"),
        ("Chest", "chest thorax ribcage breast brust poitrine pecho petto torace"),
        ("Neck", "neck hals nacken cou cuello collo"),
        ("Head", "head skull kopf tete cabeza testa"),
        ("Jaw", "jaw kiefer machoire mandibula mascella"),
        ("Eye", "eye auge oeil ojo occhio"),
        ("Clavicle", "clavicle collar collarbone clav scapula schluesselbein schlusselbein clavicule clavicula clavicola"),
        ("Shoulder", "shoulder schulter epaule hombro spalla"),
        ("UpperArm", "upperarm uparm humerus bicep oberarm"),
        ("Arm", "arm bras brazo braccio"),
        ("Forearm", "forearm lowerarm loarm elbow radius unterarm ellbogen ellenbogen avantbras coude antebrazo codo avambraccio gomito"),
        ("Hand", "hand wrist palm handgelenk poignet mano muneca polso"),
        ("Thigh", "thigh upperleg upleg femur oberschenkel cuisse muslo coscia"),
        ("Hip", "hip huefte hufte hanche anca"),
        ("Shin", "shin calf knee lowerleg loleg lowleg tibia unterschenkel knie genou mollet rodilla ginocchio"),
        ("Leg", "leg bein jambe pierna gamba"),
        ("Foot", "foot ankle fuss fus knoechel knochel pied cheville pie tobillo piede caviglia"),
        ("Toes", "toe toes toebase ball zeh zehe zehen orteil orteils"),
        ("Thumb", "thumb daumen pouce pulgar pollice"),
        ("Index", "index zeigefinger indice"),
        ("Middle", "middle mittelfinger majeur"),
        ("Ring", "ring ringfinger annulaire anular anulare"),
        ("Little", "little pinky pinkie kleinfinger auriculaire menique mignolo"),
        ("Root", "root wurzel racine raiz radice"),
    ];

    private const string Lefts = "l left lf lft links izq izquierda izquierdo gauche sinistra sinistro sx port",
        Rights = "r right rt rgt rechts der derecha derecho droite droit destra destro dx starboard stbd";

    private static readonly FrozenDictionary<string, char> Sides = Lefts
        .Split(' ')
        .Select(w => (w, 'L'))
        .Concat(Rights.Split(' ').Select(w => (w, 'R')))
        .ToFrozenDictionary(x => x.w, x => x.Item2, StringComparer.Ordinal);

    /// <summary>Word → what it means.</summary>
    public static FrozenDictionary<string, string> Known { get; } =
        All.SelectMany(a => a.Words.Split(' ').Select(w => (w, a.Meaning)))
            .ToFrozenDictionary(x => x.w, x => x.Meaning, StringComparer.Ordinal);

    /// <summary>'L' or 'R' for a word that tells a side.</summary>
    public static char? Side(string word) => Sides.TryGetValue(word, out var side) ? side : null;

    /// <summary>The name with plain letters: accents go. By a table, because a server may run without the culture data that know them.</summary>
    public static string Plain(string name) => name.All(char.IsAscii) ? name : string.Create(name.Length, name, (to, from) =>
            {
                for (var i = 0; i < to.Length; i++)
                {
                    var at = Accented.IndexOf(char.ToLowerInvariant(from[i]));
                    to[i] =
                        at < 0 ? from[i]
                        : char.IsUpper(from[i]) ? char.ToUpperInvariant(Letters[at])
                        : Letters[at];
                }
            });

    private const string Accented = "àáâãäåçèéêëìíîïñòóôõöùúûüýÿß",
        Letters = "aaaaaaceeeeiiiinooooouuuuyys";
}
