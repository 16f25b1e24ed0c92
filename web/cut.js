// A piece cut open: what lies before the cut is taken away, the cut is filled, and what is measured is drawn in it.
import {
  BufferAttribute, BufferGeometry, Color, DoubleSide, Float32BufferAttribute, LineBasicMaterial, LineSegments, Mesh,
  MeshBasicMaterial, Plane, Vector3,
} from "three";

// The filling lies in the cut: it stays, whatever rounding says.
const SPARE_MM = 2e-3;

export class Cut {
  constructor(found, colour, ink, offset) {
    const shift = new Vector3(...offset);
    this.normal = new Vector3(...found.normal);
    this.outward = new Vector3(...found.outward);
    this.at = new Vector3(...found.at).add(shift);
    this.plane = new Plane(this.normal.clone().negate(), this.normal.dot(this.at) + SPARE_MM);
    const geometry = new BufferGeometry();
    geometry.setAttribute("position", new Float32BufferAttribute(found.points.flat(), 3));
    geometry.setIndex(new BufferAttribute(new Uint32Array(found.triangles.flat()), 1));
    geometry.translate(...offset);
    this.filling = new Mesh(
      geometry, new MeshBasicMaterial({ color: new Color(colour).lerp(new Color("#ffffff"), 0.35), side: DoubleSide }),
    );
    this.filling.renderOrder = 1;
    const ends = found.lengths.flatMap((one) => [...one.start, ...one.end]);
    const lines = new BufferGeometry();
    lines.setAttribute("position", new Float32BufferAttribute(ends, 3));
    lines.translate(...offset);
    this.lines = new LineSegments(lines, new LineBasicMaterial({ color: ink, depthTest: false }));
    this.lines.renderOrder = 7;
    this.labels = found.lengths.map((one) => ({
      text: `${one.mm.toFixed(2)} mm ${one.title}`,
      at: new Vector3(...one.start).add(new Vector3(...one.end)).multiplyScalar(0.5).add(shift),
    }));
  }

  // Labels stand beside the middle of their line, one below the other where they would meet.
  write(box, camera, width, height) {
    while (box.children.length < this.labels.length) {
      const span = document.createElement("span");
      span.className = "cut-label";
      box.append(span);
    }
    let below = -Infinity;
    const placed = this.labels
      .map((label, i) => ({ label, i, seen: label.at.clone().project(camera) }))
      .sort((one, other) => other.seen.y - one.seen.y);
    for (const { label, i, seen } of placed) {
      const span = box.children[i];
      span.textContent = label.text;
      const top = Math.max(((1 - seen.y) / 2) * height - 9, below);
      below = top + 20;
      span.style.left = `${Math.min(((1 + seen.x) / 2) * width + 12, width - 140)}px`;
      span.style.top = `${Math.min(top, height - 20)}px`;
    }
  }

  dispose() {
    for (const one of [this.filling, this.lines]) {
      one.parent?.remove(one);
      one.geometry.dispose();
      one.material.dispose();
    }
  }
}
