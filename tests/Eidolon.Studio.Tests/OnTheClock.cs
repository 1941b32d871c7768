namespace Eidolon.Studio.Tests;

/// <summary>Tests of devices that send by the clock: they run alone, as a stage does not share its machine with other work.</summary>
[CollectionDefinition(nameof(OnTheClock), DisableParallelization = true)]
public sealed class OnTheClock
{
    /// <summary>
    /// A machine that other work takes away for a while sends late: what is wrong with the program is wrong every time, so it is tried again.
    /// </summary>
    /// <param name="once">Records and looks; the number of the try, from 1.</param>
    public static async Task Again(Func<int, Task> once)
    {
        for (var k = 1; ; k++)
        {
            try
            {
                await once(k);
                return;
            }
            catch (Xunit.Sdk.XunitException) when (k < 3) { }
        }
    }
}
