// The entry line: what is typed goes into a queue in local storage first, then to the server in order.
// A line leaves the queue only when the server has answered for it, so nothing typed is lost on the way.
"use strict";

(() => {
  const form = document.getElementById("entry-form");
  if (!form) return;
  const line = form.querySelector("#entry");
  const pack = form.querySelector("input[name=pack]");
  const token = form.querySelector("input[name=csrf_token]").value;
  const waiting = document.getElementById("waiting");
  const shelf = `botin-queue-${form.dataset.box}`;
  const RETRY_MS = 1500;
  let sending = false;

  const queue = () => JSON.parse(localStorage.getItem(shelf) || "[]");
  const keep = (lines) => localStorage.setItem(shelf, JSON.stringify(lines));
  const newKey = () => Array.from(crypto.getRandomValues(new Uint8Array(16)), (byte) => byte.toString(16).padStart(2, "0")).join("");

  const focus = () => {
    line.focus({ preventScroll: true });
    line.setSelectionRange(line.value.length, line.value.length);
  };

  const showWaiting = (away) => {
    const count = queue().length;
    waiting.hidden = !(away && count);
    waiting.textContent = count === 1 ? "Botin does not answer. 1 line waits here and is sent when it is back."
      : `Botin does not answer. ${count} lines wait here and are sent when it is back.`;
  };

  // Swap in the parts of the answer; the entry line itself stays as it is, with what is being typed.
  const swap = (html) => {
    const answer = new DOMParser().parseFromString(html, "text/html");
    for (const part of answer.querySelectorAll("[data-swap]")) document.getElementById(part.id)?.replaceWith(part);
    if (!queue().length) pack.value = document.getElementById("strip").dataset.pack;
  };

  const post = (url, fields) => fetch(url, {
    method: "POST",
    headers: { "HX-Request": "true" },
    body: new URLSearchParams({ csrf_token: token, ...fields }),
  });

  const refuse = (sent) => {
    line.setAttribute("aria-invalid", "true");
    if (sent.entry) line.value = line.value ? `${sent.entry} ${line.value}` : sent.entry;
    focus();
  };

  const send = async () => {
    if (sending) return;
    sending = true;
    try {
      for (let lines = queue(); lines.length; lines = queue()) {
        const answer = await post(form.action, lines[0]);
        if (answer.status >= 500) throw new Error("server");
        const html = await answer.text();
        const [sent] = lines;
        keep(queue().filter((other) => other.client_key !== sent.client_key));
        showWaiting(false);
        swap(html);
        if (!answer.ok) refuse(sent);
      }
    } catch {
      showWaiting(true);
      setTimeout(send, RETRY_MS);
    }
    sending = false;
  };

  form.addEventListener("submit", (event) => {
    event.preventDefault();
    const typed = line.value;
    const here = Number(pack.value);
    keep([...queue(), { entry: typed, pack: here, client_key: newKey() }]);
    if (!typed.trim()) pack.value = Math.min(here + 1, Number(pack.dataset.last));
    line.value = "";
    line.removeAttribute("aria-invalid");
    send();
  });

  document.addEventListener("submit", async (event) => {
    const live = event.target.closest("form[data-live]");
    if (!live) return;
    event.preventDefault();
    const button = event.submitter;
    const fields = button?.name ? { [button.name]: button.value } : {};
    try {
      const answer = await post(live.action, fields);
      if (answer.ok) swap(await answer.text()); else location.reload();
    } catch {
      showWaiting(true);
    }
    focus();
  });

  // A suggestion replaces the word it is meant for.
  document.addEventListener("click", (event) => {
    const chip = event.target.closest("[data-replace]");
    if (!chip) return;
    const words = line.value.split(/(\s+)/);
    const plain = (word) => word.toLowerCase().replace(/[^0-9a-z/!]/g, "");
    const place = words.findIndex((word) => plain(word) === plain(chip.dataset.replace));
    if (place >= 0) words[place] = chip.dataset.with;
    line.value = place >= 0 ? words.join("") : `${line.value.trim()} ${chip.dataset.with}`;
    focus();
  });

  // On the empty line: Ctrl+Z and Ctrl+Y take back and bring back, Page keys turn packs.
  document.addEventListener("keydown", (event) => {
    if (line.value !== "") return;
    const press = (button) => {
      if (!button || button.disabled) return;
      event.preventDefault();
      button.click();
    };
    const now = document.querySelector(".pack-card.now");
    if (event.ctrlKey && event.key === "z") press(document.querySelector("[data-key=undo]"));
    if (event.ctrlKey && event.key === "y") press(document.querySelector("[data-key=redo]"));
    if (event.key === "PageDown") press(now?.nextElementSibling);
    if (event.key === "PageUp" && now?.previousElementSibling?.matches(".pack-card")) press(now.previousElementSibling);
  });

  if (line.value) focus();
  if (queue().length) send();
})();
