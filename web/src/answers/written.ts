import type { JSONContent } from "@tiptap/core";
import type { Schemas } from "../api/client";
import type { Response } from "./kinds";

export type Written = Schemas["WrittenView"];
export type WrittenNode = Schemas["WrittenNodeView"];
export type AttachedFile = Schemas["AttachedFileView"];

export const writtenOf = (value: Response | undefined): Written =>
  value && typeof value === "object" && "written" in value ? value.written : {};

/** As it is kept: what is empty is left out, and everything stands in one order. */
export function withWritten(now: Written, change: Partial<Written>): Response {
  const { text = [], files = [], links = [] } = { ...now, ...change };
  return {
    written: {
      ...(text.some((node) => node.content?.length || node.text) || text.length > 1 ? { text } : {}),
      ...(files.length > 0 ? { files } : {}),
      ...(links.length > 0 ? { links } : {}),
    },
  };
}

/** What the editor holds, as it is kept: nodes and marks we know, nothing else. */
export function fromEditor(doc: JSONContent): WrittenNode[] {
  return (doc.content ?? []).map(nodeOf);
}

function nodeOf(node: JSONContent): WrittenNode {
  const content = (node.content ?? []).map(nodeOf);
  const text = node.type === "maths" ? String(node.attrs?.entry ?? "") : (node.text ?? "");
  const marks = (node.marks ?? []).map((m) => m.type as NonNullable<WrittenNode["marks"]>[number]);
  return {
    type: node.type as WrittenNode["type"],
    ...(content.length > 0 ? { content } : {}),
    ...(text !== "" ? { text } : {}),
    ...(marks.length > 0 ? { marks } : {}),
  };
}

/** What is kept, for the editor. */
export function toEditor(text: WrittenNode[]): JSONContent {
  return { type: "doc", content: text.length > 0 ? text.map(toNode) : [{ type: "paragraph" }] };
}

function toNode(node: WrittenNode): JSONContent {
  const content = (node.content ?? []).map(toNode);
  if (node.type === "text") {
    return { type: "text", text: node.text ?? "", marks: (node.marks ?? []).map((type) => ({ type })) };
  }
  if (node.type === "maths") return { type: "maths", attrs: { entry: node.text ?? "" } };
  const attrs = node.type === "heading" ? { attrs: { level: 3 } } : {};
  return { type: node.type, ...attrs, ...(content.length > 0 ? { content } : {}) };
}

/** Without formatting, as words are counted. */
export function plainOf(text: WrittenNode[]): string {
  const flat = (node: WrittenNode): string => {
    if (node.type === "text") return node.text ?? "";
    if (node.type === "maths") return `\`${node.text ?? ""}\``;
    if (node.type === "hardBreak") return "\n";
    const inline = node.type === "paragraph" || node.type === "heading";
    return (node.content ?? []).map(flat).join(inline ? "" : " ");
  };
  return text.map(flat).join("\n");
}

/** Words: what stands between blanks and has a letter or a digit in it. */
export const wordsIn = (text: WrittenNode[]): number =>
  plainOf(text)
    .split(/\s+/)
    .filter((word) => /[\p{L}\p{N}]/u.test(word)).length;

/** "2.4 MB", "310 kB". */
export const sizeWords = (bytes: number): string =>
  bytes >= 1_000_000
    ? `${(bytes / 1_000_000).toFixed(1)} MB`
    : `${Math.max(1, Math.round(bytes / 1_000))} kB`;

/** "0:07", "2:30". */
export const clockOf = (seconds: number): string => {
  const whole = Math.max(0, Math.floor(seconds));
  return `${Math.floor(whole / 60)}:${String(whole % 60).padStart(2, "0")}`;
};
