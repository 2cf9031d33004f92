import { Button, Skeleton } from "@mantine/core";
import { useQuery } from "@tanstack/react-query";
import { Link } from "@tanstack/react-router";
import { useState } from "react";
import { Frame } from "../../app/Frame";
import { Trouble } from "../../shared/Trouble";
import classes from "./Bank.module.css";
import { Finder, useFinder } from "./Finder";
import { kindLabel } from "./find";
import { Picture } from "./Picture";
import { bankQuery } from "./queries";
import { ZipIn } from "./ZipIn";

/** What can be asked: every question, with what it is on, and a picture to try it on. */
export function BankPage() {
  const bank = useQuery(bankQuery());
  const finder = useFinder(bank.data);
  const { found } = finder;
  const [open, setOpen] = useState<string | null>(null);
  const skillTitle = (id: string) => bank.data?.skills.find((s) => s.id === id)?.title ?? id;
  return (
    <Frame title="Bank">
      {bank.error && <Trouble heading={bank.data ? undefined : "Bank"} error={bank.error} />}
      {bank.isPending && <Skeleton height={420} aria-label="Loading the bank" />}
      {bank.data && (
        <>
          <div className={classes.buttons}>
            <h1>Bank</h1>
            <Button component={Link} to="/bank-new" size="sm">
              New question
            </Button>
            <Button component={Link} to="/bank-recordings" variant="default" size="sm">
              Recordings
            </Button>
            <Button component={Link} to="/bank-content" variant="default" size="sm">
              Pages and skills
            </Button>
          </div>
          <ZipIn />
          <Finder bank={bank.data} finder={finder} />
          {found.length === 0 && <p>No questions match. Clear one of the three filters.</p>}
          <ul className={classes.list}>
            {found.map((q) => (
              <li key={q.id}>
                <div>
                  <b>{q.title}</b>
                  <span className={classes.dim}>
                    {q.skills.map(skillTitle).join(", ")} · {q.kinds.map(kindLabel).join(", ")} ·{" "}
                    {q.points === 1 ? "1 point" : `${q.points} points`}
                    {q.by_hand && " · marked by you"}
                    {!q.drawn && " · always the same numbers"}
                    {q.uses > 0 && ` · in ${q.uses === 1 ? "1 assignment" : `${q.uses} assignments`}`}
                  </span>
                </div>
                <Button
                  size="compact-sm"
                  variant="default"
                  aria-expanded={open === q.id}
                  aria-label={`${open === q.id ? "Close" : "Preview"} ${q.title}`}
                  onClick={() => setOpen(open === q.id ? null : q.id)}
                >
                  {open === q.id ? "Close" : "Preview"}
                </Button>
                {open === q.id && (
                  <div style={{ flexBasis: "100%" }}>
                    <Picture id={q.id} />
                    <p className={classes.buttons}>
                      <Link to="/bank/$slug/edit" params={{ slug: q.id }}>
                        Edit as text
                      </Link>
                      <Link to="/bank-new" search={{ from: `copy:${q.id}` }}>
                        Duplicate
                      </Link>
                    </p>
                  </div>
                )}
              </li>
            ))}
          </ul>
        </>
      )}
    </Frame>
  );
}
