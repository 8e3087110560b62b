// The set board: one cell is in the tab order, arrow keys walk over the others.
"use strict";

(() => {
  const board = document.querySelector("svg.board");
  if (!board) return;
  const cells = [...board.querySelectorAll("a")];
  const columns = Number(board.dataset.columns);
  const steps = { ArrowLeft: -1, ArrowRight: 1, ArrowUp: -columns, ArrowDown: columns };

  board.addEventListener("keydown", (event) => {
    const at = cells.indexOf(document.activeElement);
    let to = at + (steps[event.key] || 0);
    if (event.key === "Home") to = 0;
    if (event.key === "End") to = cells.length - 1;
    if (at < 0 || to === at || !cells[to]) return;
    event.preventDefault();
    cells[at].setAttribute("tabindex", "-1");
    cells[to].removeAttribute("tabindex");
    cells[to].focus();
  });
})();
