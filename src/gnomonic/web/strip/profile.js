// The ground along the line, and the gap between it and what hangs: numbers only.

// The index of the first ground vertex after a station.
function after(ground, station) {
  let [low, high] = [0, ground.length - 1];
  while (high - low > 1) {
    const middle = (low + high) >> 1;
    if (ground[middle][0] <= station) low = middle;
    else high = middle;
  }
  return high;
}

// Height of the ground at a station.
export function groundAt(ground, station) {
  const high = after(ground, station);
  const [p, q] = [ground[high - 1], ground[high]];
  const share = Math.min(Math.max((station - p[0]) / (q[0] - p[0] || 1), 0), 1);
  return p[3] + (q[3] - p[3]) * share;
}

// Ground vertices from station a to b, both ends interpolated.
export function groundBetween(ground, a, b) {
  const points = [[a, groundAt(ground, a)]];
  for (let k = after(ground, a); k < ground.length && ground[k][0] < b - 1e-9; k++) if (ground[k][0] > a + 1e-9) points.push([ground[k][0], ground[k][3]]);
  points.push([b, groundAt(ground, b)]);
  return points;
}

// Height of the bottom edge at both ends of a bay: as far off the ground as decided, or as a rigid rail has it.
export function edgeEnds(data, bay) {
  const clear = data.decisions.clearance_m;
  const [a, b] = bay.edge ?? [clear, clear];
  return [groundAt(data.ground, bay.from) + a, groundAt(data.ground, bay.to) + b];
}

// Height of what hangs, at its bottom edge, at a station of a bay.
export function edgeAt(data, bay, station) {
  const [z0, z1] = edgeEnds(data, bay);
  return z0 + ((z1 - z0) * (station - bay.from)) / (bay.to - bay.from || 1);
}

// Gap between what hangs and the ground along a bay: [[station, gap, ground height], …].
export function gapsOf(data, bay) {
  const points = groundBetween(data.ground, bay.from, bay.to);
  return points.map(([s, z]) => [s, edgeAt(data, bay, s) - z, z]);
}

// Closed polygons [[s, value], …] of the parts where value lies beyond a limit.
export function beyond(points, limit, sign) {
  const areas = [];
  let open = null;
  points.forEach(([s, v], k) => {
    const over = sign * (v - limit) > 0;
    if (k) {
      const [s0, v0] = points[k - 1];
      const before = sign * (v0 - limit) > 0;
      if (over !== before) {
        const cross = s0 + ((s - s0) * (limit - v0)) / (v - v0);
        if (over) open = [[cross, limit]];
        else {
          open.push([cross, limit]);
          areas.push(open);
          open = null;
        }
      }
    }
    if (over) (open ??= [[s, limit]]).push([s, v]);
  });
  if (open) areas.push([...open, [points[points.length - 1][0], limit]]);
  return areas;
}

// The bay a station lies in; null in a gate.
export const bayAt = (data, station) => data.bays.find((b) => b.from <= station + 1e-9 && station <= b.to + 1e-9) ?? null;

// What is to be seen at a station, from the lowest foot to the highest head: [low, high] of the whole bay, or of its nearer post.
export function reachAt(data, station, whole = true) {
  const ground = groundAt(data.ground, station);
  const bay = bayAt(data, station);
  const ends = bay ? [data.posts[bay.a], data.posts[bay.b]] : data.posts.filter((p) => Math.abs(p.s - station) < 0.5);
  const posts = whole ? ends : ends.filter((p) => Math.abs(p.s - station) <= (bay ? (bay.to - bay.from) / 2 + 1e-6 : 0.5));
  const edge = bay ? edgeAt(data, bay, station) : ground + data.decisions.clearance_m;
  const low = Math.min(ground, edge, ...posts.map((p) => p.z - p.depth));
  const high = Math.max(edge + data.fabric.top, ...posts.map((p) => p.z + p.above));
  return [low, high];
}
