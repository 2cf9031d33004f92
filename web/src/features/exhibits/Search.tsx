import { TextInput } from "@mantine/core";
import { type RefObject, useEffect, useId, useState } from "react";
import classes from "./Exhibits.module.css";

/** Every place in the text where the words stand; case and accents make no difference. */
function findAll(root: Node, words: string): Range[] {
  const plain = (text: string) => text.normalize("NFD").replace(/\p{M}/gu, "").toLowerCase();
  const wanted = plain(words);
  const found: Range[] = [];
  const walker = document.createTreeWalker(root, NodeFilter.SHOW_TEXT);
  for (let node = walker.nextNode(); node; node = walker.nextNode()) {
    // Maths stands there twice: for the eye and for the ear.
    if (node.parentElement?.closest(".katex-mathml, .only-spoken")) continue;
    const text = node.textContent ?? "";
    const low = plain(text);
    // Accents that fall away would move the places.
    if (low.length !== text.length) continue;
    for (let at = low.indexOf(wanted); at >= 0; at = low.indexOf(wanted, at + wanted.length)) {
      const range = new Range();
      range.setStart(node, at);
      range.setEnd(node, at + wanted.length);
      found.push(range);
    }
  }
  return found;
}

type Props = { within: RefObject<HTMLElement | null>; name: string };

/** Looks for words in a document, marks them all and goes from one to the next. */
export function Search({ within, name }: Props) {
  const [words, setWords] = useState("");
  const [found, setFound] = useState<Range[]>([]);
  const [at, setAt] = useState(0);
  const own = useId().replace(/[^a-z0-9]/gi, "");
  useEffect(() => {
    const all = words.trim() !== "" && within.current ? findAll(within.current, words.trim()) : [];
    setFound(all);
    setAt(0);
  }, [words, within]);
  useEffect(() => {
    if (!("highlights" in CSS)) return;
    const all = CSS.highlights.get("found") ?? new Highlight();
    const one = CSS.highlights.get("found-now") ?? new Highlight();
    CSS.highlights.set("found", all);
    CSS.highlights.set("found-now", one);
    for (const range of found) all.add(range);
    const now = found[at];
    if (now) one.add(now);
    return () => {
      for (const range of found) all.delete(range);
      if (now) one.delete(now);
    };
  }, [found, at]);
  useEffect(() => {
    found[at]?.startContainer.parentElement?.scrollIntoView({ block: "nearest", inline: "nearest" });
  }, [found, at]);
  const go = (by: number) => {
    if (found.length > 0) setAt((at + by + found.length) % found.length);
  };
  const said = words.trim() === "" ? "" : found.length === 0 ? "Not found" : `${at + 1} of ${found.length}`;
  return (
    <search className={classes.search} aria-label={`Search in ${name}`}>
      <TextInput
        size="sm"
        aria-label={`Search in ${name}`}
        placeholder="Search"
        value={words}
        aria-describedby={`found-${own}`}
        onChange={(e) => setWords(e.currentTarget.value)}
        onKeyDown={(e) => {
          if (e.key !== "Enter" || e.ctrlKey || e.metaKey) return;
          e.preventDefault();
          go(e.shiftKey ? -1 : 1);
        }}
      />
      <span id={`found-${own}`} role="status" data-testid="found">
        {said}
      </span>
      {found.length > 1 && (
        <>
          <button type="button" onClick={() => go(-1)}>
            Previous
          </button>
          <button type="button" onClick={() => go(1)}>
            Next
          </button>
        </>
      )}
    </search>
  );
}
