namespace Eidolon.Storage.Model;

/// <summary>What a subject is.</summary>
public enum SubjectKind
{
    Performer = 1,
    Character = 2,
    Prop = 3,
}
