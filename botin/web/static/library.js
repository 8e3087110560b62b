// The finder: what is typed is looked up at once; without scripts its button does the same.
"use strict";

(() => {
  const form = document.querySelector("[data-find]");
  if (!form) return;
  const target = document.querySelector(form.dataset.find);
  let timer = 0;
  let asked = 0;

  const find = async () => {
    const number = ++asked;
    const query = new URLSearchParams(new FormData(form));
    const answer = await fetch(`${form.action}?${query}`, { headers: { "HX-Request": "true" } });
    if (answer.ok && number === asked) target.innerHTML = await answer.text();
  };

  form.addEventListener("input", () => {
    clearTimeout(timer);
    timer = setTimeout(find, 120);
  });
  form.addEventListener("submit", (event) => {
    event.preventDefault();
    clearTimeout(timer);
    find();
  });
})();
