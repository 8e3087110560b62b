// What was typed and is not answered for yet, in local storage: of one data directory and one box. Every item has a key
// of its own, so that two windows that add at the same moment cannot write over each other.
"use strict";

window.BotinQueue = (name, home, box) => {
  const shelf = `botin-${name}-${home}-${box}-`;
  const keys = () => Object.keys(localStorage).filter((key) => key.startsWith(shelf)).sort();
  let last = Number(keys().pop()?.slice(shelf.length, shelf.length + 15)) || 0;

  // Later than whatever this window added before, also when the clock steps back.
  const stamp = () => {
    last = Math.max(Date.now(), last + 1);
    return String(last).padStart(15, "0");
  };

  const read = (key) => {
    const text = localStorage.getItem(key);
    return text === null ? [] : [{ ...JSON.parse(text), place: key }];
  };

  return {
    all: () => keys().flatMap(read),
    first: () => keys().slice(0, 1).flatMap(read)[0],
    size: () => keys().length,
    add: (item) => {
      const mark = Array.from(crypto.getRandomValues(new Uint8Array(6)), (byte) => byte.toString(16).padStart(2, "0")).join("");
      localStorage.setItem(`${shelf}${stamp()}-${mark}`, JSON.stringify(item));
    },
    drop: (item) => localStorage.removeItem(item.place),
  };
};
