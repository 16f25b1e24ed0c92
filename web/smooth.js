// Normals for a mesh of loose facets: smooth within a face, sharp where faces meet in an edge.
import { Float32BufferAttribute } from "three";

// Every facet counts by its angle at the corner. However a flat part is cut into triangles, its angles add
// up to the same, so that no pattern of triangles shows on a round face.
function facets(points) {
  const count = points.length / 9;
  const normals = new Float32Array(3 * count);
  const angles = new Float32Array(3 * count);
  for (let f = 0; f < count; f += 1) {
    const side = [0, 1, 2].map((k) => {
      const from = 9 * f + 3 * k, to = 9 * f + 3 * ((k + 1) % 3);
      return [points[to] - points[from], points[to + 1] - points[from + 1], points[to + 2] - points[from + 2]];
    });
    const n = cross(side[0], side[1]);
    const size = Math.hypot(...n);
    // A facet without area has no direction and no say.
    if (size === 0) continue;
    for (let k = 0; k < 3; k += 1) {
      normals[3 * f + k] = n[k] / size;
      const ahead = side[k], back = side[(k + 2) % 3].map((x) => -x);
      angles[3 * f + k] = Math.atan2(Math.hypot(...cross(ahead, back)), dot(ahead, back));
    }
  }
  return { normals, angles };
}

const dot = (a, b) => a[0] * b[0] + a[1] * b[1] + a[2] * b[2];
const cross = (a, b) => [a[1] * b[2] - a[2] * b[1], a[2] * b[0] - a[0] * b[2], a[0] * b[1] - a[1] * b[0]];

// Corners that lie at one place, place after place: `order` from `start[p]` to `start[p + 1]`.
function places(points) {
  const corners = points.length / 3;
  const known = new Map();
  const place = new Uint32Array(corners);
  for (let c = 0; c < corners; c += 1) {
    const key = `${points[3 * c]} ${points[3 * c + 1]} ${points[3 * c + 2]}`;
    if (!known.has(key)) known.set(key, known.size);
    place[c] = known.get(key);
  }
  const start = new Uint32Array(known.size + 1);
  for (const p of place) start[p + 1] += 1;
  for (let p = 0; p < known.size; p += 1) start[p + 1] += start[p];
  const next = start.slice();
  const order = new Uint32Array(corners);
  place.forEach((p, c) => { order[next[p]++] = c; });
  return { place, start, order };
}

export function smooth(geometry, creaseRad) {
  const points = geometry.getAttribute("position").array;
  const { normals, angles } = facets(points);
  const { place, start, order } = places(points);
  const blunt = Math.cos(creaseRad);
  const result = new Float32Array(points.length);
  for (let c = 0; c < place.length; c += 1) {
    const own = 3 * Math.floor(c / 3);
    const sum = [0, 0, 0];
    for (let i = start[place[c]]; i < start[place[c] + 1]; i += 1) {
      const other = 3 * Math.floor(order[i] / 3);
      const along = normals[own] * normals[other] + normals[own + 1] * normals[other + 1] + normals[own + 2] * normals[other + 2];
      if (along < blunt && other !== own) continue;
      for (let k = 0; k < 3; k += 1) sum[k] += angles[order[i]] * normals[other + k];
    }
    const size = Math.hypot(...sum) || 1;
    for (let k = 0; k < 3; k += 1) result[3 * c + k] = sum[k] / size;
  }
  geometry.setAttribute("normal", new Float32BufferAttribute(result, 3));
  return geometry;
}
