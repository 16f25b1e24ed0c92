// A camera that goes round the middle: by dragging, by two fingers or the wheel nearer and further, by keys.
const STEEPEST = 1.5, PER_PX = 0.008, PER_NOTCH = 0.0012;

export class Orbit {
  constructor(camera, canvas, changed) {
    Object.assign(this, { camera, canvas, changed, nearest: 0.1, furthest: 1000, touched: null });
    this.middle = [0, 0, 0];
    this.fingers = new Map();
    canvas.addEventListener("pointerdown", (event) => {
      this.fingers.set(event.pointerId, event);
      canvas.setPointerCapture(event.pointerId);
      this.touched?.();
    });
    canvas.addEventListener("pointermove", (event) => this.drag(event));
    for (const end of ["pointerup", "pointercancel"]) {
      canvas.addEventListener(end, (event) => this.fingers.delete(event.pointerId));
    }
    canvas.addEventListener("wheel", (event) => {
      event.preventDefault();
      this.touched?.();
      this.reach(Math.exp(event.deltaY * PER_NOTCH));
    }, { passive: false });
  }

  drag(event) {
    const before = this.fingers.get(event.pointerId);
    if (!before) return;
    if (this.fingers.size === 1) {
      this.turn((before.clientX - event.clientX) * PER_PX, (event.clientY - before.clientY) * PER_PX);
    } else {
      const other = [...this.fingers.values()].find((one) => one.pointerId !== event.pointerId);
      const apart = (one) => Math.hypot(one.clientX - other.clientX, one.clientY - other.clientY) || 1;
      this.reach(apart(before) / apart(event));
    }
    this.fingers.set(event.pointerId, event);
  }

  // Where it stands: the distance from the middle, the angle around it and the one above the level.
  get stand() {
    const [x, y, z] = this.camera.position.toArray().map((at, i) => at - this.middle[i]);
    const reach = Math.hypot(x, y, z);
    return [reach, Math.atan2(y, x), Math.asin(z / reach)];
  }

  place(reach, around, up) {
    const steep = Math.min(STEEPEST, Math.max(-STEEPEST, up));
    const [x, y, z] = this.middle;
    this.camera.position.set(
      x + reach * Math.cos(steep) * Math.cos(around), y + reach * Math.cos(steep) * Math.sin(around), z + reach * Math.sin(steep),
    );
    this.camera.lookAt(x, y, z);
    this.changed();
  }

  turn(around, up) {
    const [reach, a, u] = this.stand;
    this.place(reach, a + around, u + up);
  }

  // Round another middle, from another side.
  look(middle, [x, y, z], reach) {
    this.middle = middle;
    this.place(reach, Math.atan2(y, x), Math.atan2(z, Math.hypot(x, y)));
  }

  reach(share) {
    const [reach, a, u] = this.stand;
    this.place(Math.min(this.furthest, Math.max(this.nearest, reach * share)), a, u);
  }
}
