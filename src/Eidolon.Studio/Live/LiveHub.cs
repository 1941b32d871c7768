using Microsoft.AspNetCore.SignalR;

namespace Eidolon.Studio.Live;

/// <summary>Pushes live frames and the recorder's state; takes the record commands.</summary>
public sealed class LiveHub(Recorder recorder) : Hub
{
    public Task<RecorderStatus> Status() => Task.FromResult(recorder.Status());

    public async Task<string> Record(RecordRequest request)
    {
        try
        {
            await recorder.Start(request);
            return string.Empty;
        }
        catch (ArgumentException e)
        {
            return e.Message;
        }
    }

    public Task<int> Stop() => recorder.Stop();

    public void Perform(string scene, string performer) => recorder.Perform(scene, performer);
}
