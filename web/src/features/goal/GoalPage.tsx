import { Skeleton } from "@mantine/core";
import { useMutation, useQuery } from "@tanstack/react-query";
import { useNavigate, useParams } from "@tanstack/react-router";
import { useEffect, useRef } from "react";
import { api, ask, type Schemas } from "../../api/client";
import { Frame } from "../../app/Frame";
import { Trouble } from "../../shared/Trouble";
import { coverQuery } from "../cover/queries";

/** The way from an assignment with a goal to its practice or its reading. */
export function GoalPage() {
  const { id } = useParams({ from: "/signed-in/work/$id/goal" });
  const cover = useQuery(coverQuery(id));
  return (
    <Frame trail={[{ label: cover.data?.title ?? "Assignment", to: `/work/${id}` }]}>
      {cover.error && <Trouble heading={cover.data ? undefined : "This assignment"} error={cover.error} />}
      {cover.data ? <GoOn cover={cover.data} /> : <Skeleton height={320} aria-label="Loading" />}
    </Frame>
  );
}

function GoOn({ cover }: { cover: Schemas["CoverView"] }) {
  const navigate = useNavigate();
  const path = { params: { path: { id: cover.id } } };
  const pages = cover.goal?.lines.filter((l) => l.line === "page") ?? [];
  const starts = cover.goal?.lines[0]?.line === "start";
  const first = cover.goal?.lines[0];
  const watches = first?.line === "watch" ? first.recording : null;
  const go = useMutation({
    mutationFn: async () => {
      if (pages.length === 0 && !starts && !watches)
        return ask(api.POST("/api/assignments/{id}/practise", path));
      await ask(api.POST("/api/assignments/{id}/open", path));
      return null;
    },
    onSuccess: (run) => {
      if (run) return navigate({ to: "/practise/$id", params: { id: run.id }, replace: true });
      if (watches) return navigate({ to: "/recording/$id", params: { id: watches }, replace: true });
      if (starts) return navigate({ to: "/class/$id/start", params: { id: cover.class_id }, replace: true });
      const skill = (pages.find((l) => !l.read) ?? pages[0])?.skill ?? "";
      return navigate({ to: "/read/$skill", params: { skill }, search: {}, replace: true });
    },
  });
  const begun = useRef(false);
  const { mutate } = go;
  useEffect(() => {
    if (begun.current) return;
    begun.current = true;
    mutate();
  }, [mutate]);
  return go.error ? <Trouble error={go.error} /> : <Skeleton height={320} aria-label="Loading" />;
}
