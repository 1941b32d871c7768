namespace Eidolon.Demo;

/// <summary>
/// The steps in which the demo is made, written down as each is done: a start that was killed in the middle is gone on with by the next one. What a
/// step had left half done is cleared before it is done again.
/// </summary>
/// <param name="file">Where they are written down.</param>
public sealed class DemoSteps(string file)
{
    private const string Whole = "whole";
    private readonly HashSet<string> _done = File.Exists(file) ? [.. File.ReadAllLines(file)] : [];

    /// <summary>Was the making begun at all?</summary>
    public bool Begun => File.Exists(file);

    public bool Finished => _done.Contains(Whole);

    /// <summary>Written before anything is made.</summary>
    public void Begin() => Note("begun");

    public void End() => Note(Whole);

    /// <summary>Does a step that was not done yet.</summary>
    /// <param name="clear">Takes away what a cut-off step left.</param>
    public async Task Do(string step, Func<Task> clear, Func<Task> make)
    {
        if (!_done.Contains(step))
        {
            await clear();
            await make();
            Note(step);
        }
    }

    private void Note(string line)
    {
        using var stream = new FileStream(file, FileMode.Append, FileAccess.Write);
        stream.Write(System.Text.Encoding.UTF8.GetBytes(line + "\n"));
        stream.Flush(flushToDisk: true);
        _done.Add(line);
    }
}
