// The strokes by which a stand-in draws what a witness camera saw: x, y, x, y, width, the farthest first.
export const strokeValues = 5;

// Dark around each limb first, so that one in front of another can be told.
export function drawStrokes(g, strokes) {
  g.lineCap = "round";
  for (let k = 0; k + strokeValues <= strokes.length; k += strokeValues) {
    const [x1, y1, x2, y2, wide] = strokes.subarray(k, k + strokeValues),
      n = k / strokeValues;
    if (!wide) continue;
    for (const [colour, width] of [
      ["#17121b", wide + 5],
      [`hsl(${22 + (n % 7) * 3} 24% ${44 + (n % 5) * 3}%)`, wide],
    ]) {
      g.strokeStyle = colour;
      g.lineWidth = width;
      g.beginPath();
      g.moveTo(x1, y1);
      g.lineTo(x2 + 0.01, y2);
      g.stroke();
    }
  }
}
