namespace Eidolon.Core.Operations;

/// <summary>What every run of an operation gets besides its data and parameters.</summary>
public sealed record OperationContext(IResources Resources, IProgress<double>? Progress = null, CancellationToken Cancel = default);
