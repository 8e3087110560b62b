// The cards and finishes that fit what is being typed, from an index kept in the browser: no server is asked.
"use strict";

window.BotinCandidates = (() => {
  const MOST = 8;
  const LETTERS = { "ß": "ss", "ø": "o", "đ": "d", "ł": "l", "æ": "ae", "œ": "oe", "ð": "d", "þ": "th", "ı": "i" };
  // The same rules as the reader on the server, and held to the same cases: no case and accents …
  const plain = (text) => text.normalize("NFKC").toLowerCase().replace(/[ßøđłæœðþı]/g, (letter) => LETTERS[letter])
    .normalize("NFKD").replace(/\p{M}/gu, "");
  // … no blanks and dashes, but 1-5 is never 15.
  const squeeze = (text) => plain(text).replace(/([0-9])[^\p{L}\p{N}]+(?=[0-9])/gu, "$1\u0000")
    .replace(/[^\p{L}\p{N}\u0000]/gu, "").replace(/\u0000/g, "-");
  const wordsOf = (text) => plain(text).split(/[^\p{L}\p{N}]+/u).filter(Boolean);
  let index = null;

  const build = (data) => {
    const seen = new Map();
    const cards = data.cards.map(([number, name, team, section]) => {
      const key = squeeze(number);
      const first = !seen.has(key);
      if (first) seen.set(key, section);
      const words = wordsOf(`${name} ${team}`);
      return { number, name, team, section, key, words, first };
    });
    index = { ...data, cards, byNumber: new Map([...cards].reverse().map((card) => [card.key, card])) };
  };

  const load = async (url) => {
    const answer = await fetch(url);
    if (answer.ok) build(await answer.json());
  };

  // What is typed for a card: its number, with its section before it when the number alone means another card.
  const typed = (card) => (card.first ? card.number : `${squeeze(index.sections[card.section][0])} ${card.number}`);

  const ofCards = (token) => {
    const wanted = /\d/.test(token) ? squeeze(token) : "";
    const words = wanted ? [] : wordsOf(token);
    if (!wanted && (!words.length || words.join("").length < 2)) return [];
    const found = [];
    for (const card of index.cards) {
      const fits = wanted ? card.key.startsWith(wanted) : words.every((word) => card.words.some((own) => own.startsWith(word)));
      if (fits) found.push(card);
      if (found.length >= 200) break;
    }
    found.sort((a, b) => (b.key === wanted) - (a.key === wanted) || a.section - b.section || a.key.length - b.key.length);
    return found.slice(0, MOST).map((card) => ({
      text: typed(card), number: card.number, label: card.name, more: index.sections[card.section][0],
      rare: ["short_print", "variation"].includes(index.sections[card.section][1]), cue: index.sections[card.section][2],
    }));
  };

  const ofFinishes = (token, card) => {
    const wanted = squeeze(token);
    return index.finishes[card.section]
      .filter(([key, label]) => squeeze(key).startsWith(wanted) || squeeze(label).startsWith(wanted))
      .slice(0, MOST)
      .map(([key, label]) => ({ text: key, number: "", label, more: `finish of ${card.number}`, rare: false, cue: "" }));
  };

  const find = (line, caret) => {
    if (!index) return { start: 0, options: [] };
    const before = line.slice(0, caret);
    const start = before.search(/\S*$/);
    const token = before.slice(start);
    if (!token || /^[?@"“+=…*.]|[/:]/.test(token) || before.trimStart().startsWith("+")) return { start, options: [] };
    const earlier = before.slice(0, start).split(/\s+/).reverse().map((word) => index.byNumber.get(squeeze(word))).find(Boolean);
    const finishes = earlier && !/\d/.test(token) ? ofFinishes(token, earlier) : [];
    if (finishes.length) return { start, options: finishes };
    const phrase = before.match(/(?:[\p{L}’'-]+\s+)+[\p{L}’'-]+$/u)?.[0];
    const whole = phrase ? ofCards(phrase) : [];
    return whole.length ? { start: before.length - phrase.length, options: whole } : { start, options: ofCards(token) };
  };

  return { build, find, load, squeeze };
})();
