// The view of the page for the client. Reads what the page holds: points or triangles with colours, what was removed by
// reason, and marks; turns them by mouse, touch and keys. Needs no network.
import * as THREE from 'three';
import { OrbitControls } from 'three/examples/jsm/controls/OrbitControls.js';

const bytesOf = (id) => {
  const text = atob(document.getElementById(id).textContent.trim());
  const out = new Uint8Array(text.length);
  for (let i = 0; i < text.length; i++) out[i] = text.charCodeAt(i);
  return out;
};

function load() {
  const about = JSON.parse(document.getElementById('scene-about').textContent);
  const bytes = bytesOf('scene-data');
  const view = new DataView(bytes.buffer);
  let at = 0;
  const things = about.things.map((t) => {
    const places = new Float32Array(3 * t.places), colours = new Uint8Array(3 * t.places), reasons = new Uint8Array(t.places);
    for (let k = 0; k < t.places; k++) {
      for (let a = 0; a < 3; a++, at += 2) places[3 * k + a] = t.low[a] + (view.getUint16(at, true) * t.size[a]) / 65535;
      for (let a = 0; a < 3; a++) colours[3 * k + a] = view.getUint8(at++);
      reasons[k] = view.getUint8(at++);
    }
    // In an order of its own, the same each time: the first so many are then an even sample for moving.
    const order = Uint32Array.from({ length: t.places }, (_, k) => k);
    for (let k = t.places - 1, seed = 1; k > 0; k--) {
      seed = (Math.imul(seed, 1664525) + 1013904223) >>> 0;
      const other = seed % (k + 1);
      [order[k], order[other]] = [order[other], order[k]];
    }
    const corners = new Uint32Array(3 * t.triangles);
    for (let k = 0; k < corners.length; k++, at += 4) corners[k] = view.getUint32(at, true);
    return { ...t, places, colours, reasons, corners, order };
  });
  return { about, things };
}

// What of a thing has one of the reasons (0: what is left), as an object of its own, so that it can be hidden.
function objectsOf(thing, about) {
  const out = [];
  if (thing.triangles > 0) {
    const byReason = new Map();
    for (let k = 0; k < thing.triangles; k++) {
      const r = thing.reasons[thing.corners[3 * k]];
      if (!byReason.has(r)) byReason.set(r, []);
      byReason.get(r).push(thing.corners[3 * k], thing.corners[3 * k + 1], thing.corners[3 * k + 2]);
    }
    for (const [reason, corners] of byReason) {
      const g = new THREE.BufferGeometry();
      g.setAttribute('position', new THREE.BufferAttribute(thing.places, 3));
      g.setAttribute('color', new THREE.BufferAttribute(thing.colours, 3, true));
      g.setIndex(corners);
      g.computeVertexNormals();
      out.push({ reason, object: new THREE.Mesh(g, new THREE.MeshLambertMaterial({ vertexColors: true, side: THREE.DoubleSide })) });
    }
    return out;
  }
  const count = new Map();
  for (const r of thing.reasons) count.set(r, (count.get(r) ?? 0) + 1);
  for (const [reason, n] of count) {
    const places = new Float32Array(3 * n), colours = new Uint8Array(3 * n);
    for (let i = 0, to = 0; i < thing.reasons.length; i++) {
      const k = thing.order[i];
      if (thing.reasons[k] !== reason) continue;
      places.set(thing.places.subarray(3 * k, 3 * k + 3), to);
      colours.set(reason === 0 ? thing.colours.subarray(3 * k, 3 * k + 3) : about.reasons[reason - 1].colour, to);
      to += 3;
    }
    const g = new THREE.BufferGeometry();
    g.setAttribute('position', new THREE.BufferAttribute(places, 3));
    g.setAttribute('color', new THREE.BufferAttribute(colours, 3, true));
    out.push({ reason, object: new THREE.Points(g, new THREE.PointsMaterial({ vertexColors: true, size: thing.spacing * 2.2, sizeAttenuation: true })) });
  }
  return out;
}

function start() {
  const canvas = document.getElementById('scene');
  const { about, things } = load();
  let renderer;
  try {
    renderer = new THREE.WebGLRenderer({ canvas, antialias: things.some((t) => t.triangles > 0) });
  } catch {
    document.getElementById('scene-trouble').hidden = false;
    canvas.hidden = true;
    return;
  }
  const scene = new THREE.Scene();
  scene.background = new THREE.Color(0x1b222b);
  scene.add(new THREE.HemisphereLight(0xffffff, 0x8a8577, 2.2));
  const sun = new THREE.DirectionalLight(0xffffff, 1.2);
  sun.position.set(-1, -2, 3);
  scene.add(sun);
  const parts = things.flatMap((t) => objectsOf(t, about));
  for (const p of parts) scene.add(p.object);
  const box = new THREE.Box3();
  for (const p of parts.some((q) => q.reason === 0) ? parts.filter((q) => q.reason === 0) : parts) box.expandByObject(p.object);
  const middle = box.getCenter(new THREE.Vector3()), size = Math.max(box.getSize(new THREE.Vector3()).length(), 1e-6);
  const camera = new THREE.PerspectiveCamera(45, 1, size / 5000, size * 20);
  camera.up.set(0, 0, 1);
  const controls = new OrbitControls(camera, canvas);
  controls.enableDamping = false;
  const home = () => {
    controls.target.copy(middle);
    camera.position.set(middle.x - size * 0.6, middle.y - size * 0.75, middle.z + size * 0.55);
    controls.update();
  };
  home();

  for (const m of about.marks) {
    const g = new THREE.BufferGeometry().setFromPoints(m.places.map((p) => new THREE.Vector3(...p)));
    scene.add(m.places.length > 1 ? new THREE.Line(g, new THREE.LineBasicMaterial({ color: 0xffe08a }))
                                  : new THREE.Points(g, new THREE.PointsMaterial({ color: 0xffe08a, size: 8, sizeAttenuation: false })));
  }

  // While it moves only as many points are drawn as fit in a thirtieth of a second; at rest all of them.
  let share = 1, moving = false, rest = 0;
  const draw = (sync) => {
    const begun = performance.now();
    for (const p of parts)
      if (p.object.isPoints) p.object.geometry.setDrawRange(0, Math.ceil(p.object.geometry.attributes.position.count * (moving ? share : 1)));
    const w = canvas.clientWidth, h = canvas.clientHeight, ratio = moving ? 1 : Math.min(window.devicePixelRatio, 2);
    if (canvas.width !== Math.floor(w * ratio) || canvas.height !== Math.floor(h * ratio)) {
      renderer.setPixelRatio(ratio);
      renderer.setSize(w, h, false);
      camera.aspect = w / Math.max(h, 1);
      camera.updateProjectionMatrix();
    }
    renderer.render(scene, camera);
    if (moving || sync) {
      const gl = renderer.getContext();
      gl.readPixels(0, 0, 1, 1, gl.RGBA, gl.UNSIGNED_BYTE, new Uint8Array(4));  // until it is drawn
    }
    if (moving) share = Math.min(1, Math.max(0.02, share * Math.min(1.3, Math.max(0.4, 28 / (performance.now() - begun)))));
  };
  const move = (on) => {
    clearTimeout(rest);
    if (on) moving = true;
    else rest = setTimeout(() => { moving = false; draw(); }, 150);
  };
  let asked = false;
  const again = () => {
    if (asked) return;
    asked = true;
    requestAnimationFrame(() => { asked = false; draw(); });
  };
  controls.addEventListener('start', () => move(true));
  controls.addEventListener('end', () => move(false));
  controls.addEventListener('change', again);
  new ResizeObserver(again).observe(canvas);

  // Reasons: each a tick; before shows all of them, after none.
  const list = document.getElementById('scene-reasons');
  const boxes = about.reasons.map((r, k) => {
    const label = document.createElement('label'), tick = document.createElement('input'), sign = document.createElement('span');
    tick.type = 'checkbox';
    tick.id = `reason${k + 1}`;
    sign.className = 'sign';
    sign.style.background = `rgb(${r.colour.join(',')})`;
    label.append(tick, sign, ` ${r.name} (${r.told})`);
    list.append(label);
    tick.addEventListener('change', show);
    return tick;
  });
  function show() {
    for (const p of parts) p.object.visible = p.reason === 0 || boxes[p.reason - 1].checked;
    again();
  }
  const all = (on) => { for (const b of boxes) b.checked = on; show(); };
  document.getElementById('scene-before').addEventListener('click', () => all(true));
  document.getElementById('scene-after').addEventListener('click', () => all(false));
  document.getElementById('scene-home').addEventListener('click', () => { home(); again(); });

  canvas.addEventListener('keydown', (e) => {
    const turn = 0.08, spherical = new THREE.Spherical();
    const offset = camera.position.clone().sub(controls.target);
    const flat = new THREE.Vector3(offset.x, offset.z, -offset.y);
    spherical.setFromVector3(flat);
    const moves = { ArrowLeft: () => (spherical.theta -= turn), ArrowRight: () => (spherical.theta += turn),
                    ArrowUp: () => (spherical.phi -= turn), ArrowDown: () => (spherical.phi += turn),
                    '+': () => (spherical.radius *= 0.9), '-': () => (spherical.radius /= 0.9), Home: home, b: () => all(true), a: () => all(false) };
    const move = moves[e.key];
    if (!move) return;
    e.preventDefault();
    move();
    if (e.key.startsWith('Arrow') || e.key === '+' || e.key === '-') {
      spherical.phi = Math.min(Math.PI - 0.02, Math.max(0.02, spherical.phi));
      flat.setFromSpherical(spherical);
      camera.position.copy(controls.target).add(new THREE.Vector3(flat.x, -flat.z, flat.y));
      controls.update();
    }
    again();
  });
  show();
  draw();
  // For who tests the page: what is drawn, and how fast.
  window.pristineScene = {
    points: parts.reduce((n, p) => n + (p.object.isPoints ? p.object.geometry.attributes.position.count : 0), 0),
    frames: (n) => {
      const turn = () => { camera.position.sub(controls.target).applyAxisAngle(camera.up, 0.02).add(controls.target); controls.update(); draw(true); };
      moving = true;
      for (let k = 0; k < 20; k++) turn();  // until it knows how much fits
      const from = performance.now();
      for (let k = 0; k < n; k++) turn();
      const rate = (n * 1000) / (performance.now() - from), drawn = share;
      moving = false;
      const still = performance.now();
      draw(true);
      return { rate, share: drawn, rest: performance.now() - still };
    },
  };
  document.body.dataset.scene = 'ready';
}

start();
