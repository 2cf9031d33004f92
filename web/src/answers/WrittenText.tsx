import { Fragment, type ReactNode } from "react";
import { Sound } from "../shared/Sound";
import type { GivenProps } from "./kinds";
import { MathsEntry } from "./MathsEntry";
import classes from "./Written.module.css";
import { clockOf, sizeWords, type WrittenNode, writtenOf } from "./written";

/** What was written, to be read. */
function WrittenText({ text }: { text: WrittenNode[] }) {
  return <div className={classes.written}>{text.map(shown)}</div>;
}

function shown(node: WrittenNode, key: number): ReactNode {
  const content = (node.content ?? []).map(shown);
  switch (node.type) {
    case "text":
      return <Marked key={key} node={node} />;
    case "maths":
      return <MathsEntry key={key} entry={node.text ?? ""} />;
    case "hardBreak":
      return <br key={key} />;
    case "heading":
      return (
        <p key={key} className={classes.heading}>
          {content}
        </p>
      );
    case "bulletList":
      return <ul key={key}>{content}</ul>;
    case "orderedList":
      return <ol key={key}>{content}</ol>;
    case "listItem":
      return <li key={key}>{content}</li>;
    case "table":
      return (
        <table key={key}>
          <tbody>{content}</tbody>
        </table>
      );
    case "tableRow":
      return <tr key={key}>{content}</tr>;
    case "tableHeader":
      return <th key={key}>{content}</th>;
    case "tableCell":
      return <td key={key}>{content}</td>;
    default:
      return <p key={key}>{content}</p>;
  }
}

function Marked({ node }: { node: WrittenNode }) {
  const marks = node.marks ?? [];
  let text: ReactNode = node.text ?? "";
  if (marks.includes("underline")) text = <u>{text}</u>;
  if (marks.includes("italic")) text = <em>{text}</em>;
  if (marks.includes("bold")) text = <strong>{text}</strong>;
  return <Fragment>{text}</Fragment>;
}

/** What was handed in: the text, files to be opened, recordings to be played, links. */
export function WrittenGiven({ verdict }: GivenProps) {
  const { text = [], files = [], links = [] } = writtenOf(verdict.response);
  return (
    <div className={classes.given}>
      {text.length > 0 && <WrittenText text={text} />}
      {files.map((file) =>
        file.media_type.startsWith("audio/") ? (
          <Sound
            key={file.id}
            title={`${file.name}${file.seconds ? `, ${clockOf(file.seconds)}` : ""}`}
            address={`/api/files/${file.id}`}
            seconds={file.seconds ?? undefined}
          />
        ) : (
          <p key={file.id}>
            <a href={`/api/files/${file.id}`} download={file.name}>
              {file.name}
            </a>{" "}
            ({sizeWords(file.size)})
          </p>
        ),
      )}
      {links.map((link) => (
        <p key={link}>
          <a href={link} rel="noreferrer noopener">
            {link}
          </a>
        </p>
      ))}
    </div>
  );
}
