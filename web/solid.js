// Solids as they come: corners with normals from the workshop, or an STL file, whose facets are loose.
import { BufferAttribute, BufferGeometry } from "three";
import { smooth } from "./smooth.js";

// Facets that meet more bluntly than this belong to one smooth face.
const CREASE_RAD = 0.5;

export async function solidOf(answer) {
  const data = await answer.arrayBuffer();
  return answer.headers.get("Content-Type")?.startsWith("model/stl") ? loose(data) : indexed(data);
}

function indexed(data) {
  const [corners, facets] = new Uint32Array(data, 0, 2);
  const marks = 8 + 12 * corners, triangles = marks + 4 * corners;
  const geometry = new BufferGeometry();
  geometry.setAttribute("position", new BufferAttribute(new Float32Array(data, 8, 3 * corners), 3));
  const marked = new Int8Array(data, marks, 4 * corners);
  const normals = new Int8Array(3 * corners), lettering = new Uint8Array(corners);
  for (let i = 0; i < corners; i += 1) {
    for (let k = 0; k < 3; k += 1) normals[3 * i + k] = marked[4 * i + k];
    lettering[i] = marked[4 * i + 3];
  }
  geometry.setAttribute("normal", new BufferAttribute(normals, 3, true));
  geometry.setIndex(new BufferAttribute(new Uint32Array(data, triangles, 3 * facets), 1));
  return { geometry, lettering, facets };
}

function loose(data) {
  // What is put together while it is sent tells its count by its length alone.
  const facets = Math.max(0, Math.floor((data.byteLength - 84) / 50));
  const points = new Float32Array(9 * facets);
  const file = new DataView(data);
  for (let f = 0; f < facets; f += 1) {
    for (let k = 0; k < 9; k += 1) points[9 * f + k] = file.getFloat32(84 + 50 * f + 12 + 4 * k, true);
  }
  const geometry = new BufferGeometry();
  geometry.setAttribute("position", new BufferAttribute(points, 3));
  return { geometry: smooth(geometry, CREASE_RAD), lettering: null, facets };
}
