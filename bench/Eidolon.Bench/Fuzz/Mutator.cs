using System.Buffers.Binary;
using System.Text;

namespace Eidolon.Bench.Fuzz;

/// <summary>Makes a file a little wrong: bits, numbers, pieces left out, doubled, moved, words of the format, two files in one.</summary>
internal sealed class Mutator(Random random, IReadOnlyList<string> words)
{
    private static readonly uint[] Odd =
    [
        0,
        1,
        0x7f,
        0x80,
        0xff,
        0x7fff,
        0x8000,
        0xffff,
        0x7fffffff,
        0x80000000,
        0xffffffff,
        0x7fc00000,
        0x7f800000,
    ];

    /// <param name="seeds">How many of the corpus are whole files: most begin with one, and most have one fault.</param>
    public byte[] Make(IReadOnlyList<byte[]> corpus, int seeds)
    {
        var bytes = new List<byte>(corpus[random.Next(random.Next(3) > 0 ? seeds : corpus.Count)]);
        for (var times = random.Next(2) == 0 ? 1 : 1 << random.Next(5); times > 0 && bytes.Count > 0; times--)
        {
            Once(bytes, corpus);
        }

        return [.. bytes];
    }

    private void Once(List<byte> bytes, IReadOnlyList<byte[]> corpus)
    {
        var at = random.Next(bytes.Count);
        var length = Math.Min(1 + random.Next(1 << random.Next(9)), bytes.Count - at);
        switch (random.Next(words.Count > 0 ? 9 : 7))
        {
            case 0:
                bytes[at] ^= (byte)(1 << random.Next(8));
                break;
            case 1:
                bytes[at] = (byte)random.Next(256);
                break;
            case 2:
                Number(bytes, at);
                break;
            case 3:
                bytes.RemoveRange(at, length);
                break;
            case 4:
                bytes.InsertRange(at, bytes.GetRange(at, length));
                break;
            case 5:
                bytes.RemoveRange(at, bytes.Count - at);
                break;
            case 6:
                var other = corpus[random.Next(corpus.Count)];
                var from = random.Next(other.Length);
                bytes.InsertRange(at, other.AsSpan(from, Math.Min(length, other.Length - from)).ToArray());
                break;
            default:
                Word(bytes, at, length);
                break;
        }
    }

    private void Number(List<byte> bytes, int at)
    {
        Span<byte> value = stackalloc byte[4];
        BinaryPrimitives.WriteUInt32LittleEndian(value, Odd[random.Next(Odd.Length)]);
        for (var i = 0; i < (random.Next(2) == 0 ? 2 : 4) && at + i < bytes.Count; i++)
        {
            bytes[at + i] = value[i];
        }
    }

    /// <summary>A word of the format in the place of a number or a word of the file, or between.</summary>
    private void Word(List<byte> bytes, int at, int length)
    {
        var word = Encoding.UTF8.GetBytes(words[random.Next(words.Count)]);
        var end = at;
        while (end < bytes.Count && end < at + 24 && (char.IsAsciiLetterOrDigit((char)bytes[end]) || bytes[end] is (byte)'.' or (byte)'-'))
        {
            end++;
        }

        if (random.Next(2) == 0)
        {
            bytes.RemoveRange(at, Math.Max(end - at, Math.Min(length, 1)));
        }

        for (var times = random.Next(20) == 0 ? random.Next(400) : 1; times > 0; times--)
        {
            bytes.InsertRange(Math.Min(at, bytes.Count), word);
        }
    }
}
