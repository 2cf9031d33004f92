import "katex/dist/katex.min.css";
import katex from "katex";
import { useMemo } from "react";

type Props = { latex: string; display?: boolean; spoken?: string };

/** Typeset mathematics; carries MathML, and words where they are given. */
export function Maths({ latex, display = false, spoken }: Props) {
  const html = useMemo(
    () => katex.renderToString(latex, { displayMode: display, throwOnError: false, output: "htmlAndMathml" }),
    [latex, display],
  );
  return (
    <>
      {/* KaTeX escapes its input and trusts no commands that could add links or markup. */}
      <span
        aria-hidden={spoken ? true : undefined}
        data-latex={latex}
        data-display={display}
        dangerouslySetInnerHTML={{ __html: html }}
      />
      {spoken && <span className="only-spoken">{spoken}</span>}
    </>
  );
}
