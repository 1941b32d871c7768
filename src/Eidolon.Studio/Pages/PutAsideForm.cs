using Eidolon.Storage.Library;

namespace Eidolon.Studio.Pages;

/// <summary>A button that puts something aside.</summary>
/// <param name="Back">The page to go to afterwards.</param>
public sealed record PutAsideForm(AsideKind Kind, int Id, string Back)
{
    /// <summary>On the button.</summary>
    public string Word { get; init; } = Kind == AsideKind.Day ? "Put the day aside" : "Put aside";

    /// <summary>What it does, for who hovers over it.</summary>
    public string Says { get; init; } = "Out of every list; kept for 30 days and brought back with one click";

    /// <summary>The word with what it is about, where several such buttons stand on a page; null where it says enough.</summary>
    public string? Spoken { get; init; }

    /// <summary>Class of the form.</summary>
    public string Look { get; init; } = "e-aside-form";
}
