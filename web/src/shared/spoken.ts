import type { Schemas } from "../api/client";

type Inline = Schemas["InlineView"];

const words: [RegExp, string][] = [
  [/\\[dt]?frac\{([^{}]*)\}\{([^{}]*)\}/g, " $1 over $2 "],
  [/\\sqrt\{([^{}]*)\}/g, " root of $1 "],
  [/\\sqrt\[3\]\{([^{}]*)\}/g, " cube root of $1 "],
  [/\\cdot|\\times/g, " times "],
  [/\\div/g, " divided by "],
  [/\\le(?:q)?\b/g, " less than or equal to "],
  [/\\ge(?:q)?\b/g, " greater than or equal to "],
  [/</g, " less than "],
  [/>/g, " greater than "],
  [/\\ne(?:q)?\b/g, " not equal to "],
  [/\^\{?2\}?/g, " squared "],
  [/\^\{?([^{} ]+)\}?/g, " to the power $1 "],
  [/_\{?([^{} ]+)\}?/g, " $1 "],
  [/=/g, " equals "],
  [/\+/g, " plus "],
  [/-|−/g, " minus "],
  [/\\(?:text|mathrm)\{([^{}]*)\}/g, " $1 "],
  [/\\,|\\;|\\ |\\left|\\right/g, " "],
  [/\\([a-zA-Z]+)/g, " $1 "],
  [/[{}$]/g, " "],
];

/** Maths in words, for the name of a button: a name is text, and maths in it would be left out. */
function ofMaths(latex: string): string {
  let text = latex;
  // Fractions and roots stand inside each other: the innermost come first.
  for (let turn = 0; turn < 4; turn += 1) {
    for (const [sign, word] of words.slice(0, 3)) text = text.replace(sign, word);
  }
  for (const [sign, word] of words) text = text.replace(sign, word);
  return text.replace(/\s+/g, " ").trim();
}

function inWords(piece: Inline): string {
  if (piece.type === "gap") return piece.value.content.map(inWords).join("");
  return piece.type === "math" || piece.type === "display_math" ? ofMaths(piece.value) : piece.value;
}

/** The name of a button that shows maths; nothing where its text is its name. */
export function spoken(content: Inline[]): string | undefined {
  const maths = content.some((piece) => piece.type === "math" || piece.type === "display_math");
  return maths ? content.map(inWords).join("") : undefined;
}
