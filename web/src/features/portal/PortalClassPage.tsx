import { Button, Radio, Skeleton, Stack, TextInput } from "@mantine/core";
import { useMutation, useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { api, ask, type Schemas } from "../../api/client";
import { Frame } from "../../app/Frame";
import { Trouble } from "../../shared/Trouble";
import { classesQuery } from "../classes/queries";
import { useOn } from "./FromPortalPage";
import { arrivalQuery } from "./queries";

const NEW = "new";

/** A teacher who came from a portal says which class a course is. */
export function PortalClassPage() {
  const came = useQuery(arrivalQuery());
  const taught = useQuery(classesQuery());
  return (
    <Frame trail={[{ label: "From the portal" }]}>
      <h1>Which class is this course?</h1>
      {(came.error ?? taught.error) && <Trouble error={came.error ?? taught.error} />}
      {came.data && taught.data ? (
        <Choose came={came.data} taught={taught.data.classes} />
      ) : (
        !came.error && <Skeleton height={240} aria-label="Loading your classes" />
      )}
    </Frame>
  );
}

type Props = { came: Schemas["ArrivalView"]; taught: Schemas["ClassesView"]["classes"] };

function Choose({ came, taught }: Props) {
  const same = taught.find((c) => c.title === came.course);
  const [chosen, setChosen] = useState<string>(same?.id ?? (taught.length === 0 ? NEW : ""));
  const [title, setTitle] = useState(came.course);
  const on = useOn();
  const choose = useMutation({
    mutationFn: async () => {
      let id = chosen;
      if (id === NEW) {
        const time_zone = Intl.DateTimeFormat().resolvedOptions().timeZone;
        const body = { title, time_zone };
        id = (await ask(api.POST("/api/classes", { body }))).id;
      }
      return ask(api.POST("/api/arrival/class", { body: { class: id } }));
    },
    onSuccess: on,
  });
  return (
    <form
      onSubmit={(e) => {
        e.preventDefault();
        if (!choose.isPending) choose.mutate();
      }}
    >
      <p>
        You came from {came.portal}, from the course <strong>{came.course}</strong>. Its people come into the
        class you choose, and its scores go back there. You can undo this under Portal in the class.
      </p>
      <Radio.Group label="The class" value={chosen} onChange={setChosen}>
        <Stack gap="xs" my="sm">
          {taught.map((c) => (
            <Radio key={c.id} value={c.id} label={c.title} />
          ))}
          <Radio value={NEW} label="A new class" />
        </Stack>
      </Radio.Group>
      {chosen === NEW && (
        <TextInput
          label="Its title"
          maw={360}
          value={title}
          onChange={(e) => setTitle(e.currentTarget.value)}
          required
        />
      )}
      {choose.error && <Trouble error={choose.error} />}
      <Button type="submit" mt="md" disabled={chosen === ""} loading={choose.isPending}>
        This is the class
      </Button>
    </form>
  );
}
