// The clips with what "best" came to as their own numbers: a hand that changes one end of a clip moves nothing else.
export function definite(lane) {
  const clips = structuredClone(lane.clips),
    first = lane.clips.map((c) => c.start ?? 0),
    plain = (c) => !c.reverse && (c.repeat ?? 1) === 1;
  clips.forEach((c, i) => {
    const o = lane.overlaps.find((x) => x.clip === i),
      before = clips[i - 1];
    if (c.overlap !== "best" || !o || !lane.cuts[i] || !plain(c) || !plain(before)) return;
    before.end = first[i - 1] + Math.round(lane.cuts[i - 1][1] * (before.speed ?? 1));
    c.start = first[i] + Math.round(lane.cuts[i][0] * (c.speed ?? 1));
    c.overlap = o.end - o.start + 1;
  });
  return clips;
}
