namespace Eidolon.Bench;

/// <summary>The least a text reader must do: find every number and sum its digits as a decimal. The floor that reading is compared with.</summary>
internal static class NumberScan
{
    public static double Sum(ReadOnlySpan<byte> text)
    {
        double sum = 0;
        var i = 0;
        while (i < text.Length)
        {
            if ((uint)(text[i] - '0') > 9)
            {
                i++;
                continue;
            }

            long mantissa = 0;
            double scale = 1;
            var fraction = false;
            for (; i < text.Length; i++)
            {
                var d = (uint)(text[i] - '0');
                if (d <= 9)
                {
                    mantissa = (mantissa * 10) + d;
                    scale = fraction ? scale * 10 : scale;
                }
                else if (text[i] == '.' && !fraction)
                {
                    fraction = true;
                }
                else
                {
                    break;
                }
            }

            sum += mantissa / scale;
        }

        return sum;
    }
}
