using System.Buffers.Text;
using System.Runtime.CompilerServices;
using System.Text;

namespace Eidolon.Core.Formats.Bvh;

/// <summary>Walks the bytes of a BVH text: words, numbers, lines.</summary>
internal ref struct BvhScanner(ReadOnlySpan<byte> text, string file)
{
    private static readonly double[] PowersOfTen =
    [
        1,
        1e1,
        1e2,
        1e3,
        1e4,
        1e5,
        1e6,
        1e7,
        1e8,
        1e9,
        1e10,
        1e11,
        1e12,
        1e13,
        1e14,
        1e15,
        1e16,
        1e17,
        1e18,
        1e19,
        1e20,
        1e21,
        1e22,
    ];

    private readonly ReadOnlySpan<byte> _text = text;
    private int _at;

    public readonly string File => file;

    public int Line { get; private set; } = 1;

    public readonly bool AtEnd => _at >= _text.Length;

    public readonly InvalidInputException Error(string reason) => new(file, $"line {Line}", reason);

    /// <summary>The next word on this or a later line; empty at the end.</summary>
    public ReadOnlySpan<byte> Word()
    {
        SkipSpace(acrossLines: true);
        var start = _at;
        while (_at < _text.Length && _text[_at] > 32)
        {
            _at++;
        }

        return _text[start.._at];
    }

    /// <summary>The rest of this line without outer spaces.</summary>
    public string RestOfLine()
    {
        var start = _at;
        while (_at < _text.Length && _text[_at] is not ((byte)'\n' or (byte)'\r'))
        {
            _at++;
        }

        return Encoding.UTF8.GetString(_text[start.._at]).Trim();
    }

    public void Expect(string word)
    {
        var w = Word();
        if (!Is(w, word))
        {
            throw Error($"'{word}' is expected, found {Show(w)}");
        }
    }

    public static bool Is(ReadOnlySpan<byte> word, string expected) =>
        Encoding.ASCII.GetString(word[..Math.Min(word.Length, 64)]).Equals(expected, StringComparison.OrdinalIgnoreCase);

    public static string Show(ReadOnlySpan<byte> word) =>
        word.IsEmpty
            ? "the end of the file"
            : "'"
                + new string([.. Encoding.UTF8.GetString(word[..Math.Min(word.Length, 24)]).Select(c => char.IsControl(c) ? '?' : c)])
                + "'";

    /// <summary>A number on this or a later line.</summary>
    public double Number(string what)
    {
        SkipSpace(acrossLines: true);
        if (!TryNumber(out var v))
        {
            throw Error($"{what} is expected, found {Show(Word())}");
        }

        return v;
    }

    /// <summary>Moves to the first number of the next non-empty line; false at the end of the file.</summary>
    public bool NextRow()
    {
        SkipSpace(acrossLines: true);
        return _at < _text.Length;
    }

    /// <summary>Reads the next number of this line; false when the line has no more.</summary>
    [MethodImpl(MethodImplOptions.AggressiveOptimization)]
    public bool NextInRow(out double value)
    {
        SkipSpace(acrossLines: false);
        value = 0;
        if (_at >= _text.Length || _text[_at] is (byte)'\n' or (byte)'\r')
        {
            return false;
        }

        if (!TryNumber(out value))
        {
            throw Error($"a number is expected, found {Show(Word())}");
        }

        return true;
    }

    /// <summary>
    /// Reads a whole row of plain decimals and nothing else on its line. False, with nothing consumed, when the row holds anything
    /// unusual; the careful way then reads it or says what is wrong.
    /// </summary>
    [MethodImpl(MethodImplOptions.AggressiveOptimization)]
    public bool TryPlainRow(Span<double> values)
    {
        var t = _text;
        var powers = PowersOfTen;
        var i = _at;
        for (var k = 0; k < values.Length; k++)
        {
            while ((uint)i < (uint)t.Length && t[i] is (byte)' ' or (byte)'\t')
            {
                i++;
            }

            var negative = (uint)i < (uint)t.Length && t[i] == '-';
            i += negative ? 1 : 0;
            var first = i;
            ulong mantissa = 0;
            uint d;
            while ((uint)i < (uint)t.Length && (d = (uint)(t[i] - '0')) <= 9)
            {
                mantissa = (mantissa * 10) + d;
                i++;
            }

            var digits = i - first;
            var scale = 0;
            if ((uint)i < (uint)t.Length && t[i] == '.')
            {
                first = ++i;
                while ((uint)i < (uint)t.Length && (d = (uint)(t[i] - '0')) <= 9)
                {
                    mantissa = (mantissa * 10) + d;
                    i++;
                }

                scale = i - first;
                digits += scale;
            }

            if (digits is 0 or > 15 || ((uint)i < (uint)t.Length && t[i] > 32))
            {
                return false;
            }

            var v = mantissa / powers[scale];
            values[k] = negative ? -v : v;
        }

        while ((uint)i < (uint)t.Length && t[i] is (byte)' ' or (byte)'\t')
        {
            i++;
        }

        if (i < t.Length && t[i] is not ((byte)'\n' or (byte)'\r'))
        {
            return false;
        }

        _at = i;
        return true;
    }

    [MethodImpl(MethodImplOptions.AggressiveOptimization)]
    private void SkipSpace(bool acrossLines)
    {
        while (_at < _text.Length && _text[_at] <= 32)
        {
            var c = _text[_at];
            if (c is (byte)'\n' or (byte)'\r')
            {
                if (!acrossLines)
                {
                    return;
                }

                if (c == '\n' || _at + 1 >= _text.Length || _text[_at + 1] != '\n')
                {
                    Line++;
                }
            }

            _at++;
        }
    }

    /// <summary>
    /// Decimal text to double: exact when the digits fit 53 bits and the power of ten is small (Clinger's fast path), otherwise the library's
    /// parser.
    /// </summary>
    [MethodImpl(MethodImplOptions.AggressiveOptimization)]
    private bool TryNumber(out double value)
    {
        var t = _text;
        int i = _at,
            digits = 0,
            scale = 0;
        ulong mantissa = 0;
        var negative = false;
        if (i < t.Length && t[i] is (byte)'-' or (byte)'+')
        {
            negative = t[i] == '-';
            i++;
        }

        var first = i;
        uint d;
        while (i < t.Length && (d = (uint)(t[i] - '0')) <= 9)
        {
            mantissa = (mantissa * 10) + d;
            digits++;
            i++;
        }

        if (i < t.Length && t[i] == '.')
        {
            i++;
            while (i < t.Length && (d = (uint)(t[i] - '0')) <= 9)
            {
                mantissa = (mantissa * 10) + d;
                digits++;
                scale++;
                i++;
            }
        }

        value = 0;
        if (digits == 0)
        {
            return false;
        }

        if (digits <= 18 && scale <= 22 && mantissa < (1UL << 53) && (i >= t.Length || t[i] <= 32))
        {
            value = mantissa / PowersOfTen[scale];
            value = negative ? -value : value;
            _at = i;
            return true;
        }

        var from = negative ? first - 1 : first;
        if (!Utf8Parser.TryParse(t[from..], out value, out int used) || !double.IsFinite(value))
        {
            return false;
        }

        var end = from + used;
        if (end < t.Length && t[end] > 32)
        {
            return false;
        }

        _at = end;
        return true;
    }
}
