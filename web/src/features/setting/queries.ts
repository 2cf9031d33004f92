import { queryOptions } from "@tanstack/react-query";
import { api, ask, type Schemas } from "../../api/client";

export const setWorkQuery = (id: string) =>
  queryOptions({
    queryKey: ["classes", id, "assignments"],
    queryFn: () => ask(api.GET("/api/classes/{id}/assignments", { params: { path: { id } } })),
    staleTime: 0,
  });

export const assignmentQuery = (id: string, assignment: string) =>
  queryOptions({
    queryKey: ["classes", id, "assignments", assignment],
    queryFn: () =>
      ask(api.GET("/api/classes/{id}/assignments/{assignment}", { params: { path: { id, assignment } } })),
    staleTime: 0,
  });

export type Edit = Schemas["AssignmentEdit"];
export type Settings = Schemas["SettingsForm"];
export type Form = Schemas["AssignmentForm"];

export const editOf = (form: Form): Edit => ({
  title: form.title,
  settings: form.settings,
  questions: form.questions.map((q) => ({ id: q.id, points: q.points, tries: q.tries ?? null })),
  for_groups: form.for_groups,
  for_people: form.for_people,
  version: form.version,
});

/** What an edit would do, asked of the server: every rule is there. */
export const planQuery = (id: string, assignment: string, edit: Edit) =>
  queryOptions({
    queryKey: ["classes", id, "plan", assignment, edit],
    queryFn: () =>
      ask(
        api.POST("/api/classes/{id}/assignments/{assignment}/plan", {
          params: { path: { id, assignment } },
          body: edit,
        }),
      ),
    placeholderData: (before) => before,
    staleTime: 60_000,
  });
