import { Skeleton } from "@mantine/core";
import { useQuery } from "@tanstack/react-query";
import { useCallback, useState } from "react";
import { api, ask } from "../../api/client";
import { Trouble } from "../../shared/Trouble";
import { Before } from "./Before";
import { type Given, lookQuery } from "./queries";
import { Shown } from "./Shown";

/** A question of the bank with any numbers drawn. */
export function Picture({ id }: { id: string }) {
  const [seed, setSeed] = useState(1);
  const [parts, setParts] = useState<Given[]>([]);
  const look = useQuery(lookQuery(id, seed, parts));
  const read = useCallback(
    (part: string, entry: string) =>
      ask(api.POST("/api/bank/{slug}/read", { params: { path: { slug: id } }, body: { part, entry } })),
    [id],
  );
  if (look.error) return <Trouble error={look.error} />;
  if (!look.data) return <Skeleton height={160} aria-label="Loading the question" />;
  return (
    <>
      <Before id={id} />
      <Shown
        key={seed}
        shown={look.data}
        prefix={`look-${id}-`}
        place={`bank/${id}`}
        phone={`/bank-phone?slug=${encodeURIComponent(id)}&seed=${seed}`}
        read={read}
        pending={look.isFetching}
        onCheck={setParts}
        onOther={() => {
          setParts([]);
          setSeed(seed + 1);
        }}
      />
    </>
  );
}
