namespace Eidolon.Studio.Tests;

/// <summary>Tests of devices that send by the clock: they run alone, as a stage does not share its machine with other work.</summary>
[CollectionDefinition(nameof(OnTheClock), DisableParallelization = true)]
public sealed class OnTheClock;
