namespace Eidolon.Storage.Library;

/// <summary>A name nothing else has yet: the wish itself, else counted on, "Quay 2".</summary>
public static class FreeName
{
    /// <param name="taken">Has something this name already?</param>
    public static async Task<string> Of(string wish, Func<string, Task<bool>> taken)
    {
        var name = wish;
        for (var k = 2; await taken(name); k++)
        {
            name = $"{wish} {k}";
        }

        return name;
    }
}
