/**
 * The text of a block on the page, as the server has it: words as they stand, maths as its LaTeX between dollar signs. A
 * piece is a text node, or a whole formula.
 */
export type Piece = { node: Text | Element; text: string };

export function piecesOf(block: Element): Piece[] {
  const pieces: Piece[] = [];
  const walk = (node: Node) => {
    if (node instanceof Text) {
      if (node.data) pieces.push({ node, text: node.data });
      return;
    }
    if (!(node instanceof Element)) return;
    const latex = node.getAttribute("data-latex");
    if (latex !== null) {
      const sign = node.getAttribute("data-display") === "true" ? "$$" : "$";
      pieces.push({ node, text: `${sign}${latex}${sign}` });
      return;
    }
    if (node.classList.contains("only-spoken")) return;
    node.childNodes.forEach(walk);
  };
  walk(block);
  return pieces;
}

export const textOf = (block: Element) =>
  piecesOf(block)
    .map((p) => p.text)
    .join("");

/** Characters count as the server counts them: by code point. */
const lengthOf = (text: string) => [...text].length;

/** The range on the page of characters of a block's text; a formula is in it whole. */
export function rangeOf(block: Element, start: number, end: number): Range | null {
  const range = document.createRange();
  let at = 0;
  let begun = false;
  for (const { node, text } of piecesOf(block)) {
    const letters = [...text];
    const next = at + letters.length;
    const unit = (to: number) => letters.slice(0, to - at).join("").length;
    if (!begun && start < next) {
      if (node instanceof Text) range.setStart(node, unit(start));
      else range.setStartBefore(node);
      begun = true;
    }
    if (begun && end <= next) {
      if (node instanceof Text) range.setEnd(node, unit(end));
      else range.setEndAfter(node);
      return range;
    }
    at = next;
  }
  return null;
}

export type Quote = { exact: string; prefix: string; suffix: string };

const AROUND = 40;

/** A passage with what stands before and after it in its block. */
export function quoteAt(text: string, start: number, end: number): Quote | null {
  const letters = [...text];
  while (start < end && /\s/.test(letters[start] ?? "")) start += 1;
  while (end > start && /\s/.test(letters[end - 1] ?? "")) end -= 1;
  if (end <= start) return null;
  return {
    exact: letters.slice(start, end).join(""),
    prefix: letters.slice(Math.max(0, start - AROUND), start).join(""),
    suffix: letters.slice(end, end + AROUND).join(""),
  };
}

/** What is selected on the page, if it is words of one block. */
export function selectedQuote(): Quote | null {
  const selection = document.getSelection();
  if (!selection || selection.isCollapsed || selection.rangeCount === 0) return null;
  const range = selection.getRangeAt(0);
  const from = (
    range.startContainer instanceof Element ? range.startContainer : range.startContainer.parentElement
  )?.closest("[data-mark-block]");
  if (!from) return null;
  let at = 0;
  let start: number | null = null;
  let end = 0;
  for (const { node, text } of piecesOf(from)) {
    const length = lengthOf(text);
    if (range.intersectsNode(node)) {
      const units = (offset: number) => lengthOf(text.slice(0, offset));
      const here = node instanceof Text && node === range.startContainer ? units(range.startOffset) : 0;
      const to = node instanceof Text && node === range.endContainer ? units(range.endOffset) : length;
      if (start === null && here < length) start = at + here;
      end = at + to;
    }
    at += length;
  }
  return start === null ? null : quoteAt(textOf(from), start, end);
}

/** The sentences of a block, each as a passage. */
export function sentencesOf(text: string): Quote[] {
  const found: Quote[] = [];
  let at = 0;
  for (const piece of text.split(/(?<=[.!?:])\s+/)) {
    const start = text.indexOf(piece, at);
    at = start + piece.length;
    const quote = quoteAt(text, lengthOf(text.slice(0, start)), lengthOf(text.slice(0, at)));
    if (quote) found.push(quote);
  }
  return found;
}
