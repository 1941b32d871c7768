// A browser that draws in software and a live stage want both cores for themselves.
[assembly: Xunit.CollectionBehavior(DisableTestParallelization = true)]
