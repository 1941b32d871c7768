namespace Eidolon.Storage.Results;

/// <summary>One at a time for each key; different keys do not wait for each other.</summary>
internal sealed class KeyedGate
{
    private readonly Lock _lock = new();
    private readonly Dictionary<UInt128, Place> _places = [];

    /// <summary>Waits for a key; disposed when the next one may have it.</summary>
    /// <exception cref="OperationCanceledException">It was cancelled while it waited.</exception>
    public IDisposable Enter(UInt128 key, CancellationToken cancel)
    {
        Place place;
        lock (_lock)
        {
            if (!_places.TryGetValue(key, out place!))
            {
                _places[key] = place = new Place(this, key);
            }

            place.Users++;
        }

        try
        {
            place.Gate.Wait(cancel);
            return place;
        }
        catch (OperationCanceledException)
        {
            Leave(place);
            throw;
        }
    }

    private void Leave(Place place)
    {
        lock (_lock)
        {
            if (--place.Users == 0)
            {
                _places.Remove(place.Key);
            }
        }
    }

    private sealed class Place(KeyedGate owner, UInt128 key) : IDisposable
    {
        public SemaphoreSlim Gate { get; } = new(1, 1);

        public UInt128 Key => key;

        public int Users { get; set; }

        public void Dispose()
        {
            Gate.Release();
            owner.Leave(this);
        }
    }
}
