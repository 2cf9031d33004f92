import { Skeleton } from "@mantine/core";
import { useQuery } from "@tanstack/react-query";
import { useSearch } from "@tanstack/react-router";
import { useCallback, useState } from "react";
import { api, ask, type Schemas } from "../../api/client";
import { Trouble } from "../../shared/Trouble";
import classes from "./Bank.module.css";
import { useHeldForPhone } from "./phone";
import { type Given, lookQuery, triedQuery } from "./queries";
import { AskedQuestion } from "./Shown";

/** A question of the bank by itself, as narrow as the frame that it is in. */
export function PhonePage() {
  const { slug, seed = 1 } = useSearch({ from: "/signed-in/bank-phone" });
  return (
    <main className={classes.onPhone}>
      {slug ? <Kept key={seed} slug={slug} seed={seed} /> : <Edited key={seed} seed={seed} />}
    </main>
  );
}

function Kept({ slug, seed }: { slug: string; seed: number }) {
  const [parts, setParts] = useState<Given[]>([]);
  const look = useQuery(lookQuery(slug, seed, parts));
  const read = useCallback(
    (part: string, entry: string) =>
      ask(api.POST("/api/bank/{slug}/read", { params: { path: { slug } }, body: { part, entry } })),
    [slug],
  );
  return <Asked found={look} shown={look.data} place={`phone/${slug}`} read={read} onCheck={setParts} />;
}

function Edited({ seed }: { seed: number }) {
  const text = useHeldForPhone();
  const [parts, setParts] = useState<Given[]>([]);
  const tried = useQuery(triedQuery(text, seed, parts));
  const read = useCallback(
    (part: string, entry: string) => ask(api.POST("/api/bank/try/read", { body: { text, part, entry } })),
    [text],
  );
  return (
    <Asked
      found={tried}
      shown={tried.data?.shown}
      place={`phone-text/${text}`}
      read={read}
      onCheck={setParts}
    />
  );
}

type AskedProps = {
  found: { error: unknown; isFetching: boolean };
  shown: Schemas["LookedAt"] | null | undefined;
  place: string;
  read: (part: string, entry: string) => Promise<Schemas["ReadView"]>;
  onCheck: (parts: Given[]) => void;
};

function Asked({ found, shown, place, read, onCheck }: AskedProps) {
  if (found.error) return <Trouble error={found.error} />;
  if (!shown) return <Skeleton height={160} aria-label="Loading the question" />;
  return (
    <AskedQuestion
      shown={shown}
      prefix=""
      place={place}
      read={read}
      pending={found.isFetching}
      onCheck={onCheck}
    />
  );
}
