import { Button } from "@mantine/core";
import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { Link, useNavigate } from "@tanstack/react-router";
import type { ReactNode } from "react";
import { Frame } from "../../app/Frame";
import { Trouble } from "../../shared/Trouble";
import classes from "./Desk.module.css";
import { classQuery, seeAsStudent } from "./queries";

const tabs = [
  { to: "/classes/$id", label: "Sheet" },
  { to: "/classes/$id/people", label: "People" },
  { to: "/classes/$id/work", label: "Work" },
  { to: "/classes/$id/units", label: "Units" },
  { to: "/classes/$id/skills", label: "Skills" },
  { to: "/classes/$id/start", label: "Starting point" },
  { to: "/classes/$id/portal", label: "Portal" },
  { to: "/classes/$id/acts", label: "Activity log" },
  { to: "/classes/$id/settings", label: "Settings" },
] as const;

/** A class with its views. */
export function ClassFrame({ id, here, children }: { id: string; here: string; children: ReactNode }) {
  const queryClient = useQueryClient();
  const navigate = useNavigate();
  const found = useQuery(classQuery(id));
  const title = found.data?.title ?? "Class";
  const look = useMutation({
    mutationFn: () => seeAsStudent(id),
    onSuccess: async () => {
      queryClient.clear();
      await navigate({ to: "/" });
    },
  });
  return (
    <Frame trail={[{ label: here === "Sheet" ? title : `${title}: ${here}` }]}>
      {found.error ? (
        <Trouble heading="Class" error={found.error} />
      ) : (
        <>
          <div className={classes.head}>
            <h1>{title}</h1>
            <Button variant="default" size="sm" loading={look.isPending} onClick={() => look.mutate()}>
              As a student sees it
            </Button>
          </div>
          {look.error && <Trouble error={look.error} />}
          <nav className={classes.tabs} aria-label="The class">
            {tabs.map((tab) => (
              <Link
                key={tab.to}
                to={tab.to}
                params={{ id }}
                activeOptions={{ exact: tab.to === "/classes/$id" }}
                activeProps={{ "aria-current": "page" }}
              >
                {tab.label}
              </Link>
            ))}
          </nav>
          {children}
        </>
      )}
    </Frame>
  );
}
