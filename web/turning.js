// The turning view: the solid of a piece on a canvas, turned by hand, by keys, or slowly by itself.
import {
  Box3, BufferAttribute, BufferGeometry, Color, DepthTexture, DirectionalLight, Float32BufferAttribute, LineBasicMaterial,
  LineSegments, Mesh, MeshBasicMaterial, MeshStandardMaterial, NeutralToneMapping, PCFSoftShadowMap, PerspectiveCamera,
  PlaneGeometry, PMREMGenerator, Raycaster, Scene, ShaderMaterial, SphereGeometry, UniformsUtils, Vector2, Vector3,
  WebGLRenderer, WebGLRenderTarget,
} from "three";
import { RoomEnvironment } from "three/addons/environments/RoomEnvironment.js";
import { Cut } from "./cut.js";
import { Orbit } from "./orbit.js";
import { solidOf } from "./solid.js";

// Long enough to be seen as solid, short enough to spare the battery of a tablet.
const SWING_MS = 15000;

// Grounds are blackened, as a workshop does so that lettering reads: floors that are cut in, and the face that
// raised letters stand on, whose tops are polished bright again. Lettering of another colour has that.
function coloured({ geometry, lettering }, { view, level, engraved, raised, colour, letteringColour }) {
  const points = geometry.getAttribute("position");
  const shades = new Float32Array(points.count * 3).fill(1);
  const surface = Number(level), deep = Number(engraved || 0), high = Number(raised || 0);
  const own = new Color(colour), other = letteringColour && lettering ? new Color(letteringColour) : null;
  const share = other && [other.r / Math.max(own.r, 0.01), other.g / Math.max(own.g, 0.01), other.b / Math.max(own.b, 0.01)];
  for (let i = 0; i < points.count; i += 1) {
    if (share && lettering[i]) {
      shades.set(share, 3 * i);
      continue;
    }
    const at = view === "plate" ? points.getZ(i) : Math.hypot(points.getX(i), points.getY(i));
    // What is cut into a bore lies further out.
    const below = view === "bore" ? at - surface : surface - at;
    if (deep > 0 && below > deep * 0.5 && below < deep * 1.05 + 0.02) shades.fill(0.32, 3 * i, 3 * i + 3);
    if (high > 0 && Math.abs(below) < Math.min(0.3 * high, 0.02 + 0.002 * Math.abs(surface))) {
      shades.fill(0.5, 3 * i, 3 * i + 3);
    }
  }
  geometry.setAttribute("color", new BufferAttribute(shades, 3));
}

// Corners are darkened by how far a point lies behind what surrounds it, measured on a picture of depths, so
// that even shallow lettering is seen at a glance from every side.
const CORNERS = {
  uniforms: {
    depths: { value: null }, step: { value: new Vector2() }, near: { value: 0.1 }, far: { value: 100 },
    deep: { value: 1 },
  },
  vertexShader: "varying vec2 at; void main() { at = uv; gl_Position = vec4(position.xy, 0.0, 1.0); }",
  fragmentShader: `
    uniform sampler2D depths; uniform vec2 step; uniform float near, far, deep; varying vec2 at;
    float reach(vec2 place) {
      float z = texture2D(depths, place).x;
      return near * far / (far - z * (far - near));
    }
    void main() {
      if (texture2D(depths, at).x >= 1.0) discard;
      float here = reach(at), dark = 0.0;
      // Rings of six; opposite points are taken together, so that a face that leans stays as it is. Near ones
      // count most, or far ones would draw the letters' outlines again.
      for (int ring = 1; ring <= 7; ring += 1) {
        float r = float(ring);
        for (int spoke = 0; spoke < 6; spoke += 1) {
          float angle = (float(spoke) + 0.37 * r) * 0.5235988;
          vec2 off = step * (0.75 * r + 0.07 * r * r) * vec2(cos(angle), sin(angle));
          float one = reach(at + off), other = reach(at - off);
          float behind = here - 0.5 * (min(one, here + deep) + min(other, here + deep));
          dark += clamp(behind / (deep * 0.1 * (1.0 + 0.5 * r)), 0.0, 1.0) * (8.0 - r);
        }
      }
      gl_FragColor = vec4(0.0, 0.0, 0.0, 0.66 * clamp(dark / 78.0, 0.0, 1.0));
    }`,
};

class TurningView {
  constructor(canvas) {
    this.canvas = canvas;
    this.renderer = new WebGLRenderer({ canvas, antialias: true, alpha: true });
    this.renderer.setPixelRatio(Math.min(2, window.devicePixelRatio));
    this.renderer.toneMapping = NeutralToneMapping;
    this.scene = new Scene();
    const light = new PMREMGenerator(this.renderer);
    this.scene.environment = light.fromScene(new RoomEnvironment(), 0.04).texture;
    this.scene.environmentIntensity = 0.6;
    // Light that grazes the face from the upper left, so that even shallow lettering casts a shadow.
    this.renderer.shadowMap.enabled = true;
    this.renderer.shadowMap.type = PCFSoftShadowMap;
    this.lamp = new DirectionalLight(0xffffff, 1.7);
    this.lamp.castShadow = true;
    // The lamp stands still: its shadow is drawn anew only when the piece itself moves.
    this.renderer.shadowMap.autoUpdate = false;
    this.lamp.shadow.mapSize.set(1024, 1024);
    this.lamp.shadow.bias = -0.0004;
    this.scene.add(this.lamp, this.lamp.target);
    this.camera = new PerspectiveCamera(28, 1, 0.1, 2000);
    this.camera.up.set(0, 0, 1);
    this.orbit = new Orbit(this.camera, canvas, () => this.draw());
    this.orbit.touched = () => { this.resting = true; };
    this.resting = window.matchMedia("(prefers-reduced-motion: reduce)").matches;
    this.material = new MeshStandardMaterial({ metalness: 0.92, roughness: 0.42, vertexColors: true });
    this.gridMaterial = new LineBasicMaterial({
      color: getComputedStyle(canvas).getPropertyValue("--color-verdigris").trim() || "#2f7d6b",
    });
    this.spotMaterial = new MeshBasicMaterial({
      color: getComputedStyle(canvas).getPropertyValue("--color-vermilion").trim() || "#c0341d",
      depthTest: false, transparent: true,
    });
    this.haloMaterial = new MeshBasicMaterial({ color: "#ffffff", depthTest: false, transparent: true, opacity: 0.9 });
    this.depths = new WebGLRenderTarget(1, 1, { depthTexture: new DepthTexture(1, 1) });
    this.corners = new ShaderMaterial({ ...CORNERS, uniforms: UniformsUtils.clone(CORNERS.uniforms), transparent: true, depthTest: false, depthWrite: false });
    this.corners.uniforms.depths.value = this.depths.depthTexture;
    this.overlay = new Mesh(new PlaneGeometry(2, 2), this.corners);
    this.overlay.frustumCulled = false;
    this.depthOnly = new MeshBasicMaterial({ colorWrite: false });
    this.renderer.localClippingEnabled = true;
    this.labels = document.querySelector("[data-cut-labels]");
    canvas.addEventListener("webglcontextlost", () => tell("The graphics of this computer gave up. Load the page again to see it turning."));
    this.mesh = null;
    this.wanted = "";
    // Where cuts are fetched, the areas that it may be cut across, and across which it is.
    this.cutFrom = "";
    this.areas = [""];
    this.area = 0;
    this.cutting = "";
    new ResizeObserver(() => this.fit()).observe(canvas.parentElement);
    canvas.addEventListener("dblclick", (event) => this.pick(event));
    canvas.addEventListener("keydown", (event) => this.turnByKey(event));
    this.swing = this.swing.bind(this);
  }

  // What it holds of the graphics, given back once its page is gone.
  end() {
    this.resting = true;
    this.renderer.dispose();
    this.renderer.forceContextLoss();
  }

  fit() {
    const { clientWidth, clientHeight } = this.canvas.parentElement;
    if (!clientWidth || !clientHeight) return;
    this.renderer.setSize(clientWidth, clientHeight, false);
    const size = this.renderer.getDrawingBufferSize(new Vector2());
    this.depths.setSize(size.x, size.y);
    this.corners.uniforms.step.value.set(1.4 / clientWidth, 1.4 / clientHeight);
    this.camera.aspect = clientWidth / clientHeight;
    this.camera.updateProjectionMatrix();
    this.draw();
  }

  // The millimetre grid of the area lies on the body and turns with it.
  async rule(address) {
    this.gridWanted = address || "";
    if (this.grid) {
      this.grid.parent?.remove(this.grid);
      this.grid.geometry.dispose();
      this.grid = null;
    }
    if (!address || !this.mesh) {
      this.draw();
      return;
    }
    const answer = await fetch(address, { credentials: "same-origin" });
    if (this.gridWanted !== address || !answer.ok) return;
    const { lines } = await answer.json();
    const points = [];
    for (const line of lines) {
      for (let i = 3; i < line.length; i += 3) points.push(...line.slice(i - 3, i + 3));
    }
    const geometry = new BufferGeometry();
    geometry.setAttribute("position", new Float32BufferAttribute(points, 3));
    geometry.translate(...this.offset);
    this.grid = new LineSegments(geometry, this.gridMaterial);
    this.mesh.add(this.grid);
    this.canvas.dataset.grid = String(lines.length);
    this.draw();
  }

  async show(asked) {
    const { solid, colour, view, piece, grid, cut, cutAreas } = asked;
    if (solid && this.wanted === solid && this.cutFrom === (cut || "")) {
      this.stay();
      return;
    }
    this.uncut();
    this.cutFrom = cut || "";
    this.areas = cutAreas ? cutAreas.split("|") : [""];
    if (this.area >= this.areas.length) this.area = 0;
    if (!solid) {
      if (this.mesh) this.scene.remove(this.mesh);
      this.mesh = null;
      this.wanted = "";
      this.canvas.dataset.shown = "";
      this.draw();
      return;
    }
    if (this.wanted === solid) {
      if (this.isOpen) this.open();
      return;
    }
    this.wanted = solid;
    this.canvas.setAttribute("aria-busy", "true");
    let found = null;
    try {
      const answer = await fetch(solid, { credentials: "same-origin" });
      // Only the newest wish counts: an older answer that comes late is dropped.
      if (this.wanted !== solid) return;
      if (answer.ok) found = await solidOf(answer);
    } catch {
      found = null;
    }
    if (this.wanted !== solid) return;
    this.canvas.removeAttribute("aria-busy");
    if (!found?.facets) {
      this.wanted = "";
      tell("The piece could not be fetched, so what turns here is as it was before. The checks beside it hold; choose it again to try once more.");
      return;
    }
    tell("");
    const { geometry } = found;
    coloured(found, asked);
    const first = this.piece !== piece;
    this.piece = piece;
    if (this.mesh) {
      this.scene.remove(this.mesh);
      this.mesh.geometry.dispose();
    }
    this.colour = colour;
    this.material.color = new Color(colour);
    this.mesh = new Mesh(geometry, this.material);
    this.mesh.castShadow = true;
    this.mesh.receiveShadow = true;
    const box = new Box3().setFromBufferAttribute(geometry.getAttribute("position"));
    this.offset = box.getCenter(new Vector3()).negate().toArray();
    geometry.translate(...this.offset);
    this.scene.add(this.mesh);
    this.rule(document.querySelector("[data-grid-toggle]")?.checked ? grid : "");
    this.view = view;
    this.middle = box.getCenter(new Vector3()).z;
    this.spot = null;
    const [eye, lamp] = [asked.eye, asked.lamp].map((one) => one && one.split(" ").map(Number));
    if (first) this.stand({ view, eye, lamp }, box.getSize(new Vector3()));
    this.renderer.shadowMap.needsUpdate = true;
    this.canvas.dataset.shown = solid;
    this.canvas.dataset.triangles = String(found.facets);
    this.draw();
    if (this.isOpen) this.open();
  }

  get cutAt() {
    const area = this.areas[this.area];
    if (!this.cutFrom || !area) return this.cutFrom;
    return `${this.cutFrom}${this.cutFrom.includes("?") ? "&" : "?"}area=${encodeURIComponent(area)}`;
  }

  // Cut open across one area after the other, and whole again.
  next() {
    if (this.isOpen && this.area + 1 < this.areas.length) {
      this.uncut();
      this.area += 1;
      this.open();
    } else if (this.isOpen) this.close();
    else this.open();
  }

  // Something else of the page came to rest: what is cut open stays so, and is written where it may be new.
  stay() {
    if (!this.isOpen) return;
    if (!this.cut) {
      this.open();
      return;
    }
    say(this.cut.said);
    if (!this.labels?.childElementCount) this.draw();
  }

  // Cut open across its deepest letter, seen from where the cut is.
  async open() {
    this.isOpen = true;
    // A piece that is on its way is cut open once it is there.
    if (!this.mesh || !this.cutAt || this.cut || this.cutting === this.cutAt) return;
    if (this.canvas.hasAttribute("aria-busy")) return;
    const wanted = this.cutAt;
    this.cutting = wanted;
    let found = null;
    try {
      const answer = await fetch(wanted, { credentials: "same-origin" });
      if (answer.ok) found = await answer.json();
    } catch {
      found = null;
    } finally {
      if (this.cutting === wanted) this.cutting = "";
    }
    if (this.cutAt !== wanted || !this.isOpen || !this.mesh || this.cut) return;
    if (!found?.points) {
      tell(found?.said || "The cut could not be fetched. Choose “Cut it open” twice to try once more.");
      return;
    }
    this.resting = true;
    this.mesh.rotation.z = 0;
    this.point(null);
    this.cut = new Cut(found, this.colour, this.spotMaterial.color, this.offset);
    this.scene.add(this.cut.filling, this.cut.lines);
    for (const material of [this.material, this.depthOnly]) material.clippingPlanes = [this.cut.plane];
    // Near, and a little from the side of the face, so that both the cut and the lettering are seen.
    const { normal, outward, at } = this.cut;
    const from = normal.clone().addScaledVector(outward, 0.7);
    if (this.view !== "plate") from.z += 0.45;
    this.before = [this.orbit.middle, this.camera.position.toArray()];
    this.orbit.look(at.toArray(), from.toArray(), this.size * 0.85);
    this.canvas.dataset.cut = found.lengths.map((one) => `${one.title} ${one.mm.toFixed(2)}`).join("; ");
    const after = this.areas[this.area + 1];
    this.cut.said = after ? `${found.said} · once more: the ${after}` : found.said;
    say(this.cut.said);
    this.draw();
  }

  close() {
    this.isOpen = false;
    this.area = 0;
    this.uncut();
    say("");
    this.draw();
  }

  uncut() {
    if (this.cut) {
      this.cut.dispose();
      this.cut = null;
      const [middle, place] = this.before;
      this.orbit.middle = middle;
      this.camera.position.set(...place);
      this.orbit.turn(0, 0);
    }
    for (const material of [this.material, this.depthOnly]) material.clippingPlanes = null;
    this.canvas.dataset.cut = "";
    this.labels?.replaceChildren();
  }

  // Where the lettering looks the usual way no eye is named.
  stand({ view, eye: seen, lamp: shine }, extent) {
    // Far enough for the whole diagonal, and for what stands tall seen from the front.
    const isRound = view !== "plate";
    const size = Math.max(extent.length(), isRound ? extent.z * 1.5 : 0);
    // From further away where there is less room beside than above it.
    const narrow = Math.max(1, 1.25 / this.camera.aspect);
    const from = new Vector3(...(seen || (isRound ? [0.25, -1, 0.55] : [0.1, -0.7, 1])));
    this.camera.position.copy(from.normalize().multiplyScalar(size * 1.75 * narrow));
    const lamp = new Vector3(...(shine || (isRound ? [-1.1, -0.75, 1] : [-1.2, 0.9, 0.6])));
    // A plate lies level under the bright ceiling of the surroundings and needs less.
    this.lamp.intensity = isRound ? 1.7 : 0.9;
    this.scene.environmentIntensity = isRound ? 0.6 : 0.42;
    this.lamp.position.copy(lamp.multiplyScalar(size));
    this.isBelow = false;
    this.scene.environmentRotation.y = 0;
    const eye = this.lamp.shadow.camera;
    eye.left = eye.bottom = -size * 0.6;
    eye.right = eye.top = size * 0.6;
    eye.near = size * 0.1;
    eye.far = size * 3;
    eye.updateProjectionMatrix();
    this.camera.near = size / 50;
    this.camera.far = size * 20;
    this.camera.updateProjectionMatrix();
    this.size = size;
    this.orbit.middle = [0, 0, 0];
    this.orbit.nearest = size * 0.2;
    this.orbit.furthest = size * 8;
    this.started = performance.now();
    this.orbit.turn(0, 0);
    if (!this.resting) requestAnimationFrame(this.swing);
  }

  // Where a finding is: a ring that is seen through the piece, and the piece turned so that it is in front.
  point(spot) {
    if (spot && this.cut) this.close();
    if (this.spot) {
      this.spot.parent?.remove(this.spot);
      this.spot.geometry.dispose();
      this.spot = null;
    }
    if (!spot || !this.mesh) {
      this.canvas.dataset.spot = "";
      this.draw();
      return;
    }
    this.resting = true;
    this.mesh.rotation.z = 0;
    const at = new Vector3(...spot).add(new Vector3(...this.offset));
    const [reach] = this.orbit.stand;
    const band = this.view !== "plate", bore = this.view === "bore";
    // Inside a bore it is seen from across, over the rim.
    const way = bore ? -1 : 1;
    const around = band ? Math.atan2(way * at.y, way * at.x) : Math.atan2(this.camera.position.y, this.camera.position.x);
    // What lies on the far side of a plate is looked at from there.
    const far = !band && spot[2] < this.middle - 1e-3;
    const up = bore ? 0.63 : band ? 0.35 : far ? -1.1 : 1.1;
    this.orbit.place(reach, around, up);
    this.spot = new Mesh(new SphereGeometry(reach * 0.016, 24, 16), this.haloMaterial);
    this.spot.position.copy(at);
    this.spot.renderOrder = 8;
    const heart = new Mesh(new SphereGeometry(reach * 0.01, 24, 16), this.spotMaterial);
    heart.renderOrder = 9;
    this.spot.add(heart);
    this.mesh.add(this.spot);
    this.canvas.dataset.spot = spot.join(" ");
    this.draw();
  }

  // A gentle swing shows that it is solid; the first touch ends it, and then nothing is drawn until something
  // changes.
  swing(now) {
    if (now - this.started > SWING_MS) this.resting = true;
    if (this.resting || !this.mesh || !this.canvas.isConnected) return;
    this.renderer.shadowMap.needsUpdate = true;
    this.mesh.rotation.z = 0.28 * Math.sin((now - this.started) / 1600);
    this.draw();
    requestAnimationFrame(this.swing);
  }

  // A double click on the piece puts its place into the field that asks for a point, if there is one; where
  // the piece has several sides, it says which was meant.
  pick(event) {
    const field = document.querySelector("[data-picks-point]");
    const hasSides = this.canvas.closest("[data-sides]") !== null;
    if ((!field && !hasSides) || !this.mesh) return;
    const box = this.canvas.getBoundingClientRect();
    const at = new Vector2(
      ((event.clientX - box.left) / box.width) * 2 - 1, 1 - ((event.clientY - box.top) / box.height) * 2,
    );
    const ray = new Raycaster();
    ray.setFromCamera(at, this.camera);
    const [hit] = ray.intersectObject(this.mesh, false);
    if (!hit) return;
    const place = this.mesh.worldToLocal(hit.point.clone()).toArray().map((c, i) => c - this.offset[i]);
    if (!field) {
      const said = (three) => three.map((c) => c.toFixed(3)).join(" ");
      this.canvas.dispatchEvent(new CustomEvent("side-picked", {
        bubbles: true, detail: { at: said(place), out: said(hit.face.normal.toArray()) },
      }));
      return;
    }
    field.value = place.map((c) => c.toFixed(2)).join(" ");
    field.dispatchEvent(new Event("input", { bubbles: true }));
  }

  turnByKey(event) {
    const turns = { ArrowLeft: [-1, 0], ArrowRight: [1, 0], ArrowUp: [0, -1], ArrowDown: [0, 1] };
    const turn = turns[event.key];
    if (!turn) return;
    event.preventDefault();
    event.stopPropagation();
    this.resting = true;
    this.orbit.turn(turn[0] * 0.12, -turn[1] * 0.12);
  }

  // The back of a plate is looked at as it would be turned over in the hand: its light comes with it.
  light() {
    const isBelow = this.view === "plate" && this.camera.position.z < this.orbit.middle[2];
    if (isBelow === this.isBelow) return;
    this.isBelow = isBelow;
    this.lamp.position.z = Math.abs(this.lamp.position.z) * (isBelow ? -1 : 1);
    this.scene.environmentRotation.y = isBelow ? Math.PI : 0;
    this.renderer.shadowMap.needsUpdate = true;
  }

  draw() {
    const { renderer, camera } = this;
    if (this.mesh) this.light();
    this.canvas.dataset.drawn = String(Number(this.canvas.dataset.drawn || 0) + 1);
    if (this.mesh) {
      const { uniforms } = this.corners;
      uniforms.near.value = camera.near;
      uniforms.far.value = camera.far;
      // As deep as a few points of the picture are wide: what reads as a corner does so at every distance.
      uniforms.deep.value = 14 * uniforms.step.value.y * camera.position.length() * Math.tan((camera.fov * Math.PI) / 360);
      this.scene.overrideMaterial = this.depthOnly;
      if (this.grid) this.grid.visible = false;
      if (this.spot) this.spot.visible = false;
      if (this.cut) this.cut.lines.visible = false;
      renderer.setRenderTarget(this.depths);
      renderer.clear();
      renderer.render(this.scene, camera);
      renderer.setRenderTarget(null);
      this.scene.overrideMaterial = null;
      if (this.grid) this.grid.visible = true;
      if (this.spot) this.spot.visible = true;
      if (this.cut) this.cut.lines.visible = true;
    }
    renderer.autoClear = true;
    renderer.render(this.scene, camera);
    if (!this.mesh) return;
    renderer.autoClear = false;
    renderer.render(this.overlay, camera);
    if (this.cut && this.labels) {
      const { clientWidth, clientHeight } = this.canvas.parentElement;
      this.cut.write(this.labels, camera, clientWidth, clientHeight);
    }
  }
}

let view = null;

// What went wrong, in the place of what can't be shown; "" when all is well again.
function tell(said) {
  const box = document.querySelector("[data-no-turning]");
  if (!box) return;
  if (said) box.textContent = said;
  box.toggleAttribute("hidden", !said);
}

function say(said) {
  const box = document.querySelector("[data-cut-said]");
  if (box) box.textContent = said;
}

function showWhatIsThere() {
  const canvas = document.querySelector("canvas[data-turning]");
  const source = document.querySelector("[data-solid]");
  if (view && view.canvas !== canvas) {
    view.end();
    view = null;
  }
  if (!canvas || !source) return;
  if (!view) {
    try {
      view = new TurningView(canvas);
    } catch {
      document.querySelector("[data-no-turning]")?.removeAttribute("hidden");
      return;
    }
  }
  // The labels are part of what is redrawn, the canvas is not.
  view.labels = document.querySelector("[data-cut-labels]");
  const button = document.querySelector("[data-cut-open]");
  button?.setAttribute("aria-pressed", String(Boolean(view.isOpen)));
  view.show(source.dataset);
}

document.addEventListener("click", (event) => {
  const button = event.target.closest("[data-cut-open]");
  if (!button || !view) return;
  view.next();
  button.setAttribute("aria-pressed", String(Boolean(view.isOpen)));
});

document.addEventListener("change", (event) => {
  if (!event.target.matches("[data-grid-toggle]") || !view) return;
  const grid = document.querySelector("[data-solid]")?.dataset.grid;
  view.rule(event.target.checked ? grid : "");
});
document.addEventListener("spot-chosen", (event) => view?.point(event.detail.spot));
document.addEventListener("DOMContentLoaded", showWhatIsThere);
document.addEventListener("htmx:afterSettle", showWhatIsThere);
