// The entry line: every step goes into a queue in local storage first, then to the server in order. It leaves the queue
// only when the server has answered for it, so nothing typed is lost on the way, also when the tab is closed.
"use strict";

(() => {
  const form = document.getElementById("entry-form");
  if (!form) return;
  const line = form.querySelector("#entry");
  const pack = form.querySelector("input[name=pack]");
  const { home, box } = form.dataset;
  const waiting = document.getElementById("waiting");
  const list = document.getElementById("candidates");
  const help = document.getElementById("help");
  const queue = window.BotinQueue("queue", home, box);
  const refused = window.BotinQueue("refused", home, box);
  const lineShelf = `botin-line-${home}-${box}`;
  const AWAY = "Botin does not answer.";
  const OTHER = "Another Botin answers at this address (the demo, perhaps): nothing typed here goes there.";
  const RETRY_MS = 1500;
  const PULSE_MS = 800;
  let sending = false;
  let options = { start: 0, options: [] };
  let active = -1;
  let loaded = "";

  const newKey = () => Array.from(crypto.getRandomValues(new Uint8Array(16)), (byte) => byte.toString(16).padStart(2, "0")).join("");
  const strip = () => document.getElementById("strip");
  const editing = () => document.getElementById("edit").childElementCount > 0;

  const focus = () => {
    line.focus({ preventScroll: true });
    line.setSelectionRange(line.value.length, line.value.length);
  };

  const showWaiting = (why = "") => {
    const count = queue.size();
    const aside = refused.all();
    waiting.replaceChildren();
    if (why && count) {
      waiting.append(`${why} ${count === 1 ? "1 line waits" : `${count} lines wait`} here and ${count === 1 ? "is" : "are"} sent when it is back.`);
    }
    if (aside.length) waiting.append(`${waiting.textContent ? " " : ""}Not understood, kept for you: `);
    for (const item of aside) {
      const button = document.createElement("button");
      button.type = "button";
      button.className = "chip";
      button.dataset.again = item.place;
      button.textContent = `${item.entry} (pack ${item.pack})`;
      waiting.append(button);
    }
    waiting.hidden = !waiting.textContent;
  };

  // Swap in the parts of the answer; the entry line itself stays as it is, with what is being typed.
  const swap = (html, skip = []) => {
    const answer = new DOMParser().parseFromString(html, "text/html");
    for (const part of answer.querySelectorAll("[data-swap]")) {
      if (skip.includes(part.id)) continue;
      document.getElementById(part.id)?.replaceWith(part);
      window.htmx?.process(part);
    }
    if (!queue.size()) pack.value = strip().dataset.pack;
    loadIndex();
  };

  // An answer of another data directory at the same address is no answer of ours.
  const ours = (answer) => {
    if ((answer.headers.get("X-Botin-Home") ?? home) !== home) throw new Error(OTHER);
    return answer;
  };

  const tokenField = () => form.querySelector("input[name=csrf_token]");
  const ask = (url, fields) => fetch(url, {
    method: "POST",
    headers: { "HX-Request": "true" },
    body: new URLSearchParams([["csrf_token", tokenField().value], ["home", home], ...fields]),
  });

  // When the cookie is gone the form is too old: take a fresh one, then send the same line once more.
  const post = async (url, fields) => {
    const answer = ours(await ask(url, fields));
    if (!answer.headers.get("X-Form-Old")) return answer;
    const page = ours(await fetch(location.href));
    const fresh = new DOMParser().parseFromString(await page.text(), "text/html").querySelector("#entry-form input[name=csrf_token]");
    if (!page.ok || !fresh) throw new Error(AWAY);
    for (const field of document.querySelectorAll("input[name=csrf_token]")) field.value = fresh.value;
    return ours(await ask(url, fields));
  };

  // A line that was not understood comes back to the line it was typed on, or is kept aside when one types on.
  const refuse = (fields) => {
    const sent = Object.fromEntries(fields);
    if (!sent.entry) return;
    if (line.value === "" && !queue.size()) {
      line.value = sent.entry;
      localStorage.setItem(lineShelf, line.value);
      line.setAttribute("aria-invalid", "true");
      focus();
      line.select(); // typing on replaces what was refused, an arrow key mends it
    } else {
      refused.add(sent);
    }
  };

  const sendAll = async () => {
    for (let first = queue.first(); first; first = queue.first()) {
      const answer = await post(first.url, first.fields);
      if (answer.status >= 500 || answer.headers.get("X-Form-Old")) throw new Error(AWAY);
      const html = await answer.text();
      queue.drop(first);
      swap(html);
      if (answer.ok) line.removeAttribute("aria-invalid");
      else if (first.isLine) refuse(first.fields);
      showWaiting();
    }
  };

  const send = async () => {
    if (sending) return;
    sending = true;
    try {
      if (navigator.locks) await navigator.locks.request(`botin-send-${home}-${box}`, sendAll);
      else await sendAll();
    } catch (error) {
      showWaiting(error.message === OTHER ? OTHER : AWAY);
      setTimeout(send, RETRY_MS);
    }
    sending = false;
  };

  const enqueue = (url, fields, isLine) => {
    queue.add({ url, fields, isLine });
    send();
  };

  const logLine = (typed) => {
    const here = Number(pack.value);
    enqueue(form.action, [["entry", typed], ["pack", String(here)], ["client_key", newKey()]], true);
    if (!typed.trim()) pack.value = Math.min(here + 1, Number(pack.dataset.last));
  };

  form.addEventListener("submit", (event) => {
    event.preventDefault();
    if (line.value.trim() === "?") { line.value = ""; help.showModal(); return; }
    const typed = line.value;
    line.value = "";
    localStorage.removeItem(lineShelf);
    line.removeAttribute("aria-invalid");
    show({ start: 0, options: [] });
    logLine(typed);
  });

  // A pasted list is logged line by line.
  line.addEventListener("paste", (event) => {
    const text = event.clipboardData.getData("text");
    if (!/\n/.test(text.trim())) return;
    event.preventDefault();
    for (const typed of text.split(/\r?\n/)) if (typed.trim()) logLine(typed.trim());
  });

  document.addEventListener("submit", (event) => {
    const live = event.target.closest("form[data-live]");
    if (!live) return;
    event.preventDefault();
    // What the window shows is what is meant, unless lines of its own are still on their way.
    const left = queue.size() ? ["csrf_token", "seen"] : ["csrf_token"];
    const fields = [...new FormData(live, event.submitter)].filter(([name]) => !left.includes(name));
    enqueue(live.action, [...fields, ["client_key", newKey()], ["turn_key", newKey()]], false);
    focus();
  });

  // The cards that fit.
  const show = (found) => {
    options = found;
    active = -1;
    list.replaceChildren(...found.options.map((option, place) => {
      const item = document.createElement("li");
      item.id = `candidate-${place}`;
      item.role = "option";
      item.className = option.rare ? "candidate rare" : "candidate";
      item.dataset.place = place;
      const number = document.createElement("b");
      number.textContent = option.number;
      const more = document.createElement("span");
      more.className = "soft";
      more.textContent = option.cue ? `${option.more}: ${option.cue}` : option.more;
      item.append(number, ` ${option.label} `, more);
      return item;
    }));
    list.hidden = !found.options.length;
    line.setAttribute("aria-expanded", String(!list.hidden));
    line.removeAttribute("aria-activedescendant");
  };

  const mark = (place) => {
    list.children[active]?.removeAttribute("aria-selected");
    active = place;
    list.children[active]?.setAttribute("aria-selected", "true");
    if (active >= 0) line.setAttribute("aria-activedescendant", `candidate-${active}`);
    else line.removeAttribute("aria-activedescendant");
  };

  const pick = (place) => {
    const caret = line.selectionStart;
    line.value = `${line.value.slice(0, options.start)}${options.options[place].text} ${line.value.slice(caret).trimStart()}`;
    show({ start: 0, options: [] });
    focus();
  };

  const loadIndex = () => {
    const wanted = `${strip().dataset.revision}`;
    if (wanted === loaded) return;
    loaded = wanted;
    window.BotinCandidates.load(`${form.dataset.index}?pack=${pack.value}&r=${encodeURIComponent(wanted)}`)
      .then(() => { if (line.value && document.activeElement === line) show(window.BotinCandidates.find(line.value, line.selectionStart)); })
      .catch(() => { loaded = ""; });
  };

  line.addEventListener("input", () => localStorage.setItem(lineShelf, line.value));
  line.addEventListener("input", () => show(window.BotinCandidates.find(line.value, line.selectionStart)));
  line.addEventListener("blur", () => setTimeout(() => show({ start: 0, options: [] }), 150));
  list.addEventListener("mousedown", (event) => {
    event.preventDefault();
    const item = event.target.closest("[data-place]");
    if (item) pick(Number(item.dataset.place));
  });

  line.addEventListener("keydown", (event) => {
    const count = options.options.length;
    if (event.key === "ArrowDown" && count) { event.preventDefault(); mark((active + 1) % count); }
    if (event.key === "ArrowUp" && count) { event.preventDefault(); mark(active <= 0 ? count - 1 : active - 1); }
    if (event.key === "Enter" && active >= 0) { event.preventDefault(); pick(active); }
    if (event.key === "Escape" && count) { event.stopPropagation(); show({ start: 0, options: [] }); }
  });

  document.addEventListener("click", (event) => {
    const chip = event.target.closest("[data-replace]");
    const again = event.target.closest("[data-again]");
    if (event.target.closest("#help-button")) help.showModal();
    if (event.target.closest("[data-leave]") && editing()) {
      event.preventDefault();
      document.getElementById("edit").replaceChildren();
      focus();
    }
    if (again) {
      const item = refused.all().find((other) => other.place === again.dataset.again);
      if (item) {
        refused.drop(item);
        line.value = item.entry;
        pack.value = item.pack;
      }
      showWaiting();
      focus();
    }
    if (!chip) return;
    // A suggestion replaces the word it is meant for.
    const words = line.value.split(/(\s+)/);
    const plain = (word) => word.toLowerCase().replace(/[^0-9a-z/!]/g, "");
    const place = words.findIndex((word) => plain(word) === plain(chip.dataset.replace));
    if (place >= 0) words[place] = chip.dataset.with;
    line.value = place >= 0 ? words.join("") : `${line.value.trim()} ${chip.dataset.with}`;
    focus();
  });

  // On the empty line the keys move packs and turn steps back and forth.
  document.addEventListener("keydown", (event) => {
    const other = event.target.closest?.("input, select, textarea, dialog");
    if (line.value !== "" || help.open || (other && other !== line)) return;
    const press = (button) => {
      if (!button || button.disabled) return;
      event.preventDefault();
      button.click();
    };
    const now = document.querySelector(".pack-card.now");
    const before = now?.previousElementSibling;
    const key = event.key;
    if ((event.ctrlKey || event.metaKey) && key === "z" && !event.shiftKey) press(document.querySelector("[data-key=undo]"));
    if ((event.ctrlKey || event.metaKey) && (key === "y" || (key === "z" && event.shiftKey))) press(document.querySelector("[data-key=redo]"));
    if (key === "PageDown" || key === "ArrowRight") press(now?.nextElementSibling);
    if ((key === "PageUp" || key === "ArrowLeft") && before?.matches(".pack-card")) press(before);
    if (key === "?" && other !== line) { event.preventDefault(); help.showModal(); }
    if (key === "?" && other === line) { event.preventDefault(); help.showModal(); }
  });

  // A card to correct opens above the pack: bring it into sight, wherever it was asked for.
  document.addEventListener("htmx:afterSwap", (event) => {
    if (event.detail.target.id !== "edit") return;
    document.getElementById("hand-head").scrollIntoView({ block: "start" });
    document.getElementById("edit-entry")?.focus({ preventScroll: true });
  });

  // Another window may log into the same box: look once a moment, and take in what is new.
  const pulse = async () => {
    if (document.hidden || sending || queue.size()) return;
    try {
      const version = document.getElementById("hand-foot").dataset.version;
      const answer = ours(await fetch(`${form.dataset.pulse}?v=${encodeURIComponent(version)}&pack=${pack.value}`, { headers: { "HX-Request": "true" } }));
      if (answer.headers.get("X-Closed")) { location.reload(); return; }
      if (answer.status === 200) swap(await answer.text(), ["edit", "facts", "entry-note", "close-form"]);
      if (answer.status === 200) document.getElementById("close-form").querySelector("[name=seen]").value = document.getElementById("strip").dataset.logged;
    } catch {
      // The server is away; the queue says so when something is typed.
    }
  };
  setInterval(pulse, PULSE_MS);

  // Lines that an earlier version kept do not say whose data directory they are of: they are shown, and one decides.
  for (const name of ["queue", "refused"]) {
    const before = `botin-${name}-${box}`;
    for (const item of JSON.parse(localStorage.getItem(before) || "[]")) {
      const sent = name === "queue" ? Object.fromEntries(item.fields) : item;
      if (sent.entry) refused.add(sent);
    }
    localStorage.removeItem(before);
  }

  form.dataset.ready = "yes";
  loadIndex();
  showWaiting();
  if (!line.value) line.value = localStorage.getItem(lineShelf) || "";
  if (line.value) focus();
  if (queue.size()) send();
})();
