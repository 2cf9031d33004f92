import { Button, TextInput } from "@mantine/core";
import { useRef, useState } from "react";
import { api, ask, Failure } from "../../api/client";
import { type AttachedFile, sizeWords } from "../written";
import classes from "./Files.module.css";

export const LARGEST = 8 * 1024 * 1024;

/** Keeps a file with the work and gives how it is named in an answer. */
export async function keepFile(assignment: string, question: number, file: Blob, name: string) {
  const kept = await ask(
    api.POST("/api/assignments/{id}/questions/{question}/files", {
      params: { path: { id: assignment, question }, query: { name } },
      body: file as unknown as number[],
      bodySerializer: (body) => body as unknown as Blob,
      headers: { "content-type": "application/octet-stream" },
    }),
  );
  return kept as AttachedFile;
}

export async function dropFile(assignment: string, file: string) {
  // It is out of the answer already; what cannot be deleted now does no harm.
  await api
    .DELETE("/api/assignments/{id}/files/{file}", { params: { path: { id: assignment, file } } })
    .catch(() => undefined);
}

/** What went wrong with a file, in words. */
export const fileTrouble = (error: unknown, name: string) =>
  error instanceof Failure && error.code !== null
    ? `${name}: ${error.message}`
    : `${name} did not reach the server. Try again in a moment.`;

type Props = {
  assignment: string;
  question: number;
  files: AttachedFile[];
  most: number;
  disabled: boolean;
  onChange: (change: (files: AttachedFile[]) => AttachedFile[]) => void;
};

/** Files with an answer: attached one by one, named with their size, taken out again. */
export function Files({ assignment, question, files, most, disabled, onChange }: Props) {
  const input = useRef<HTMLInputElement>(null);
  const [sending, setSending] = useState<string[]>([]);
  const [problems, setProblems] = useState<string[]>([]);
  const take = async (chosen: File[]) => {
    const room = most - files.length;
    const wrong: string[] = [];
    if (chosen.length > room) {
      wrong.push(
        room > 0 ? `Only ${room} more can be attached here.` : "No more files can be attached here.",
      );
    }
    for (const file of chosen.slice(0, Math.max(room, 0))) {
      if (file.size > LARGEST) {
        wrong.push(`${file.name} is larger than 8 MB. Make it smaller, then attach it again.`);
        continue;
      }
      setSending((all) => [...all, file.name]);
      try {
        const kept = await keepFile(assignment, question, file, file.name);
        onChange((all) => [...all, kept]);
      } catch (error) {
        wrong.push(fileTrouble(error, file.name));
      }
      setSending((all) => all.filter((name) => name !== file.name));
    }
    setProblems(wrong);
  };
  if (most === 0 || (disabled && files.length === 0)) return null;
  return (
    <div className={classes.files} data-testid="files">
      {files.length > 0 && (
        <ul aria-label="Attached files">
          {files.map((file) => (
            <li key={file.id}>
              <a href={`/api/files/${file.id}`} download={file.name}>
                {file.name}
              </a>{" "}
              <span>{sizeWords(file.size)}</span>
              {!disabled && (
                <Button
                  size="compact-sm"
                  variant="subtle"
                  aria-label={`Remove ${file.name}`}
                  onClick={() => {
                    onChange((all) => all.filter((f) => f.id !== file.id));
                    void dropFile(assignment, file.id);
                  }}
                >
                  Remove
                </Button>
              )}
            </li>
          ))}
        </ul>
      )}
      {sending.map((name) => (
        <p key={name} role="status">
          Sending {name}…
        </p>
      ))}
      {problems.map((words) => (
        <p key={words} className={classes.problem} role="alert">
          {words}
        </p>
      ))}
      {!disabled && files.length < most && (
        <div className={classes.add}>
          <input
            ref={input}
            type="file"
            multiple={most - files.length > 1}
            className={classes.hidden}
            aria-label="Attach a file"
            tabIndex={-1}
            data-testid="attach"
            onChange={(e) => {
              void take([...(e.currentTarget.files ?? [])]);
              e.currentTarget.value = "";
            }}
          />
          <Button size="sm" variant="default" onClick={() => input.current?.click()}>
            Attach a file
          </Button>
          <span>
            {most - files.length === 1 ? "One" : `Up to ${most - files.length}`}
            {files.length > 0 ? " more" : ""}: picture, PDF, text or office document, 8 MB each
          </span>
        </div>
      )}
    </div>
  );
}

type LinksProps = { links: string[]; most: number; disabled: boolean; onChange: (links: string[]) => void };

/** Links with an answer. */
export function Links({ links, most, disabled, onChange }: LinksProps) {
  const [typed, setTyped] = useState("");
  const [problem, setProblem] = useState("");
  if (most === 0 || (disabled && links.length === 0)) return null;
  const add = () => {
    const link = /^[a-z]+:/i.test(typed.trim()) ? typed.trim() : ["https:", typed.trim()].join("//");
    if (!/^https?:\/\/[^\s/]+\.[^\s]+$/i.test(link) || link.length > 500) {
      setProblem("Enter a full web address, such as https://skerry.example/log.");
    } else if (links.includes(link)) {
      setProblem("This link is here already.");
    } else {
      setProblem("");
      setTyped("");
      onChange([...links, link]);
    }
  };
  return (
    <div className={classes.files} data-testid="links">
      {links.length > 0 && (
        <ul aria-label="Links">
          {links.map((link) => (
            <li key={link}>
              <a href={link} rel="noreferrer noopener">
                {link}
              </a>
              {!disabled && (
                <Button
                  size="compact-sm"
                  variant="subtle"
                  aria-label={`Remove ${link}`}
                  onClick={() => onChange(links.filter((l) => l !== link))}
                >
                  Remove
                </Button>
              )}
            </li>
          ))}
        </ul>
      )}
      {!disabled && links.length < most && (
        <div className={classes.add}>
          <TextInput
            size="sm"
            aria-label="A link to add"
            placeholder="A web address"
            value={typed}
            error={problem || undefined}
            onChange={(e) => setTyped(e.currentTarget.value)}
            onKeyDown={(e) => {
              if (e.key !== "Enter" || e.ctrlKey || e.metaKey) return;
              e.preventDefault();
              add();
            }}
          />
          <Button size="sm" variant="default" onClick={add} disabled={typed.trim() === ""}>
            Add the link
          </Button>
        </div>
      )}
    </div>
  );
}
