import { useMutation, useQueryClient } from "@tanstack/react-query";
import { useNavigate } from "@tanstack/react-router";
import { api, ask, type Schemas } from "../../api/client";
import { Frame } from "../../app/Frame";
import { ClassForm } from "./ClassForm";

export function NewClassPage() {
  const queryClient = useQueryClient();
  const navigate = useNavigate();
  const make = useMutation({
    mutationFn: (body: Schemas["ClassSettings"]) => ask(api.POST("/api/classes", { body })),
    onSuccess: async ({ id }) => {
      await queryClient.invalidateQueries({ queryKey: ["classes"] });
      await navigate({ to: "/classes/$id/people", params: { id } });
    },
  });
  return (
    <Frame trail={[{ label: "A new class" }]}>
      <h1>A new class</h1>
      <ClassForm
        action="Create the class"
        pending={make.isPending}
        error={make.error}
        onSubmit={make.mutate}
      />
    </Frame>
  );
}
