using System.Collections.Concurrent;
using Eidolon.Core.Labelling;
using Eidolon.Core.Skeletons;
using Eidolon.Core.Solving;

namespace Eidolon.Studio.Services;

/// <summary>Parsed resources, kept for the life of the studio.</summary>
public sealed class ResourceMemory
{
    public ConcurrentDictionary<string, Performer> Performers { get; } = new();

    public ConcurrentDictionary<string, LabelSubject> Subjects { get; } = new();

    public ConcurrentDictionary<string, Skeleton> Characters { get; } = new();
}
