// What a screen of some width does wrong: scrolls sideways, holds something wider than its panel, sets text too small,
// cuts text off, makes targets too small to hit. Returns words, each once.
() => {
  const found = new Set();
  const root = document.documentElement;
  const name = (el) => `${el.tagName.toLowerCase()}${el.id ? "#" + el.id : ""}${[...el.classList].map((c) => "." + c).join("")}`;
  const shown = (el) => el.checkVisibility({ checkOpacity: true, checkVisibilityCSS: true }) && !el.closest(".visually-hidden, .skip");
  const scrolls = (el, panel) => {
    for (let at = el.parentElement; at && at !== panel.parentElement; at = at.parentElement) {
      if (["auto", "scroll", "hidden"].includes(getComputedStyle(at).overflowX)) return true;
    }
    return false;
  };
  if (root.scrollWidth > root.clientWidth + 1) found.add(`scrolls sideways by ${root.scrollWidth - root.clientWidth}`);
  for (const panel of document.querySelectorAll("main .stock")) {
    const edge = panel.getBoundingClientRect().right + 1;
    for (const el of panel.querySelectorAll("*")) {
      if (shown(el) && el.getBoundingClientRect().width && el.getBoundingClientRect().right > edge && !scrolls(el, panel)) {
        found.add(`wider than its panel: ${name(el)}`);
      }
    }
  }
  const walker = document.createTreeWalker(document.body, NodeFilter.SHOW_TEXT);
  while (walker.nextNode()) {
    const el = walker.currentNode.parentElement;
    if (!walker.currentNode.textContent.trim() || !el || !shown(el) || ["SCRIPT", "STYLE", "TITLE", "OPTION"].includes(el.tagName)) continue;
    let size = parseFloat(getComputedStyle(el).fontSize);
    if (el.ownerSVGElement) size *= el.ownerSVGElement.getScreenCTM().a;
    if (size < 10.99) found.add(`text of ${size.toFixed(1)} px: ${name(el.closest("svg") || el)}`);
  }
  for (const el of document.querySelectorAll("a, button, select, summary, input:not([type=hidden]), textarea")) {
    if (!shown(el)) continue;
    const style = getComputedStyle(el), box = el.getBoundingClientRect();
    const inText = el.tagName === "A" && style.display === "inline";
    if (!inText && box.width && (box.height < 23.5 || box.width < 23.5)) {
      found.add(`target of ${box.width.toFixed(0)} × ${box.height.toFixed(0)}: ${name(el)} in ${name(el.parentElement)}`);
    }
  }
  for (const el of document.querySelectorAll("main *")) {
    const style = getComputedStyle(el);
    const own = [...el.childNodes].some((node) => node.nodeType === Node.TEXT_NODE && node.textContent.trim());
    if (own && shown(el) && ["hidden", "clip"].includes(style.overflowX) && el.scrollWidth > el.clientWidth + 1) {
      found.add(`cut: ${name(el)}`);
    }
  }
  return [...found];
}
