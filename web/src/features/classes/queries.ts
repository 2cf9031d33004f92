import { queryOptions } from "@tanstack/react-query";
import { api, ask, type Schemas } from "../../api/client";

export const classesQuery = () =>
  queryOptions({ queryKey: ["classes"], queryFn: () => ask(api.GET("/api/classes")), staleTime: 0 });

export const classQuery = (id: string) =>
  queryOptions({
    queryKey: ["classes", id],
    queryFn: () => ask(api.GET("/api/classes/{id}", { params: { path: { id } } })),
  });

export const sheetQuery = (id: string) =>
  queryOptions({
    queryKey: ["classes", id, "sheet"],
    queryFn: () => ask(api.GET("/api/classes/{id}/sheet", { params: { path: { id } } })),
    staleTime: 0,
  });

export const unitsQuery = (id: string) =>
  queryOptions({
    queryKey: ["classes", id, "units"],
    queryFn: () => ask(api.GET("/api/classes/{id}/units", { params: { path: { id } } })),
    staleTime: 0,
  });

export const materialsQuery = (id: string) =>
  queryOptions({
    queryKey: ["classes", id, "materials"],
    queryFn: () => ask(api.GET("/api/classes/{id}/materials", { params: { path: { id } } })),
    staleTime: 0,
  });

export const classSkillsQuery = (id: string) =>
  queryOptions({
    queryKey: ["classes", id, "skills"],
    queryFn: () => ask(api.GET("/api/classes/{id}/skills", { params: { path: { id } } })),
    staleTime: 0,
  });

export const actsQuery = (id: string) =>
  queryOptions({
    queryKey: ["classes", id, "acts"],
    queryFn: () => ask(api.GET("/api/classes/{id}/acts", { params: { path: { id } } })),
    staleTime: 0,
  });

export const workSeenQuery = (id: string, person: string, assignment: string) =>
  queryOptions({
    queryKey: ["classes", id, "work", person, assignment],
    queryFn: () =>
      ask(
        api.GET("/api/classes/{id}/students/{person}/{assignment}", {
          params: { path: { id, person, assignment } },
        }),
      ),
    staleTime: 0,
  });

/** Where a link that signs in once leads. What stands behind the hash never reaches a server's log. */
export const linkOf = (token: string) => `${window.location.origin}/welcome#${token}`;

/** Everything is shown as a made-up student of the class sees it, from then on. */
export async function seeAsStudent(id: string) {
  await ask(api.POST("/api/classes/{id}/as-student", { params: { path: { id } } }));
}

export type ClassView = Schemas["ClassView"];
export type Member = Schemas["ClassMember"];

export const wentQuery = (id: string, assignment: string) =>
  queryOptions({
    queryKey: ["classes", id, "went", assignment],
    queryFn: () =>
      ask(
        api.GET("/api/classes/{id}/assignments/{assignment}/went", {
          params: { path: { id, assignment } },
        }),
      ),
    staleTime: 0,
  });
