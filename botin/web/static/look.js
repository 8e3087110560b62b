// The card under the glass: rulers that are dragged or moved by keys, a 10 by one key, pins by a click, scans by paste.
(() => {
  "use strict";
  const svg = document.getElementById("glass");
  const fields = document.getElementById("rulers");
  const says = document.getElementById("ruler-says");
  const UNIT = 10, STEP = 0.05, WIDEST = 30;

  const input = (side) => fields.elements[side];
  const width = (side) => Number.parseFloat(input(side).value.replace(",", ".")) || 0;
  const share = (one, other) => (one + other > 0 ? (100 * one) / (one + other) : 50);
  const both = (percent) => `${percent.toFixed(1)}/${(100 - percent).toFixed(1)}`;

  function place(group) {
    const side = group.dataset.side, at = width(side) * UNIT;
    const wide = Number(svg.dataset.wide), high = Number(svg.dataset.high);
    const to = { left: at, right: wide - at, top: at, bottom: high - at }[side];
    for (const line of group.querySelectorAll("line")) {
      const [a, b] = side === "left" || side === "right" ? ["x1", "x2"] : ["y1", "y2"];
      line.setAttribute(a, to);
      line.setAttribute(b, to);
    }
    group.setAttribute("aria-valuenow", width(side).toFixed(2));
    group.setAttribute("aria-valuetext", `${width(side).toFixed(2)} mm`);
  }

  function say() {
    const level = share(width("left"), width("right")), upright = share(width("top"), width("bottom"));
    says.textContent = `${both(level)} left to right, ${both(upright)} top to bottom`;
  }

  function put(group, millimetres) {
    input(group.dataset.side).value = Math.min(WIDEST, Math.max(0, millimetres)).toFixed(2);
    place(group);
    say();
  }

  function rulers() {
    const groups = [...svg.querySelectorAll(".ruler")];
    for (const group of groups) {
      const side = group.dataset.side;
      const inwards = { left: "ArrowRight", right: "ArrowLeft", top: "ArrowDown", bottom: "ArrowUp" }[side];
      const outwards = { left: "ArrowLeft", right: "ArrowRight", top: "ArrowUp", bottom: "ArrowDown" }[side];
      group.addEventListener("keydown", (event) => {
        if (event.key !== inwards && event.key !== outwards) return;
        event.preventDefault();
        const by = event.shiftKey ? 10 * STEP : STEP;
        put(group, width(side) + (event.key === inwards ? by : -by));
      });
      group.addEventListener("pointerdown", (event) => {
        event.preventDefault();
        group.focus();
        group.setPointerCapture(event.pointerId);
        const move = (moved) => put(group, from(moved, side));
        const end = () => group.removeEventListener("pointermove", move);
        group.addEventListener("pointermove", move);
        group.addEventListener("pointerup", end, { once: true });
        group.addEventListener("pointercancel", end, { once: true });
      });
      input(side).addEventListener("input", () => { place(group); say(); });
    }
  }

  function from(event, side) {
    const box = svg.getBoundingClientRect();
    const wide = Number(svg.dataset.wide), high = Number(svg.dataset.high);
    const x = ((event.clientX - box.left) / box.width) * wide, y = ((event.clientY - box.top) / box.height) * high;
    return { left: x, right: wide - x, top: y, bottom: high - y }[side] / UNIT;
  }

  function pins() {
    const form = document.getElementById("pin-form");
    svg.addEventListener("click", (event) => {
      if (event.target.closest(".ruler")) return;
      const box = svg.getBoundingClientRect();
      form.elements.x.value = Math.round(((event.clientX - box.left) / box.width) * 1000);
      form.elements.y.value = Math.round(((event.clientY - box.top) / box.height) * 1000);
      document.getElementById("pin-says").textContent = "where you clicked; choose the mark and pin it";
      form.elements.kind.focus();
    });
    form.elements.place.addEventListener("change", () => { form.elements.x.value = form.elements.y.value = ""; });
  }

  function grades() {
    const all = [...document.querySelectorAll("#scores input")];
    for (const field of document.querySelectorAll("#scores [data-grade]")) {
      field.addEventListener("keydown", (event) => {
        if (event.key !== "0" || field.value !== "" || event.ctrlKey || event.metaKey) return;
        event.preventDefault();
        field.value = "10";
        all[all.indexOf(field) + 1]?.focus();
      });
    }
  }

  function scans() {
    const form = document.getElementById("scan-form"), file = document.getElementById("scan-file");
    const take = (files) => {
      const pictures = [...files].filter((one) => one.type.startsWith("image/"));
      if (!pictures.length) return false;
      const carried = new DataTransfer();
      carried.items.add(pictures[0]);
      file.files = carried.files;
      form.requestSubmit();
      return true;
    };
    document.addEventListener("paste", (event) => { if (take(event.clipboardData.files)) event.preventDefault(); });
    const face = document.querySelector(".glass-face");
    face.addEventListener("dragover", (event) => event.preventDefault());
    face.addEventListener("drop", (event) => { event.preventDefault(); take(event.dataTransfer.files); });
  }

  // The first field is entered only when its keys mean what the page says: typing before that would be text.
  function enter() {
    const first = document.querySelector("#scores [data-first]");
    if (first && (document.activeElement === document.body || !document.activeElement)) first.focus();
  }

  if (svg && fields) { rulers(); pins(); }
  grades();
  scans();
  enter();
  if (svg) svg.dataset.ready = "yes";
})();
