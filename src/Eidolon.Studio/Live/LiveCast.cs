using Eidolon.Core.Labelling;
using Eidolon.Core.Markers;
using Eidolon.Core.Skeletons;
using Eidolon.Core.Solving;
using Eidolon.Storage.Library;

namespace Eidolon.Studio.Live;

/// <summary>Who and what is before the cameras: measured performers and props of the library.</summary>
public sealed class LiveCast(SubjectLibrary library, StageSettings settings)
{
    /// <summary>A live body of a performer; null when they are not measured yet.</summary>
    public LiveBody? Body(int performer, BodyPart part) =>
        library.Known(performer) is { } known
            ? new LiveBody(part == BodyPart.Whole ? known : known with { Performer = Only(known.Performer, part) }, settings.Rate)
            : null;

    /// <summary>The skeleton of a character that a performer may drive; null when it is gone, or has no file.</summary>
    public Skeleton? Rig(int character) => library.Rig(character);

    /// <summary>Every prop, by id.</summary>
    public IReadOnlyList<(int Id, RigidBody Body)> Props() => [.. library.Props().Select(p => (p.Subject.Id, p.Body))];

    private static Performer Only(Performer whole, BodyPart part) =>
        whole with
        {
            Markers = [.. whole.Markers.Where(m => part.Has(whole.Skeleton[m.Joint].Role!.Value))],
        };
}
