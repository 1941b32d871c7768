using System.Diagnostics;
using Eidolon.Core.Retargeting;

namespace Eidolon.Studio.Live;

/// <summary>A character that a performer drives while it happens.</summary>
internal sealed class LiveCharacter(LiveFigure body, LiveRetarget retarget)
{
    /// <summary>Share of the newest step in what is told of the time it takes.</summary>
    private const double Newest = 0.1;

    public LiveFigure Body => body;

    /// <summary>What driving it takes, milliseconds a frame.</summary>
    public double Milliseconds { get; private set; }

    public LiveRetarget Retarget => retarget;

    /// <summary>Takes the performer as it is shown.</summary>
    public void Step(double seconds)
    {
        var begun = Stopwatch.GetTimestamp();
        var (at, turns) = body.Shown;
        retarget.Step(at, turns.Span, seconds);
        var took = Stopwatch.GetElapsedTime(begun).TotalMilliseconds;
        Milliseconds = Milliseconds <= 0 ? took : Milliseconds + ((took - Milliseconds) * Newest);
    }
}
