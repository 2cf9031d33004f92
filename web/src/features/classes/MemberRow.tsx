import { Menu, TextInput, UnstyledButton } from "@mantine/core";
import { useMutation, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { api, ask, type Schemas } from "../../api/client";
import { Trouble } from "../../shared/Trouble";
import { moment } from "../../shared/when";
import classes from "./Desk.module.css";
import { NewPassword } from "./NewPassword";
import { classQuery, type Member } from "./queries";

type Props = {
  id: string;
  member: Member;
  groups: string[];
  onLink: (added: Schemas["AddedView"]) => void;
};

/** Somebody in a class, with what a teacher can do for them. */
export function MemberRow({ id, member, groups, onLink }: Props) {
  const queryClient = useQueryClient();
  const [group, setGroup] = useState(member.group ?? "");
  const [setting, setSetting] = useState(false);
  const path = { id, person: member.id };
  const change = useMutation({
    mutationFn: (body: Schemas["MemberChange"]) =>
      ask(api.PUT("/api/classes/{id}/members/{person}", { params: { path }, body })),
    onSuccess: (now) => queryClient.setQueryData(classQuery(id).queryKey, now),
  });
  const link = useMutation({
    mutationFn: () => ask(api.POST("/api/classes/{id}/members/{person}/link", { params: { path } })),
    onSuccess: ({ link: token }) =>
      onLink({
        added: [{ id: member.id, name: member.name, user_name: member.user_name, link: token }],
        refused: [],
      }),
  });
  const left = member.left_at != null;
  const error = change.error ?? link.error;
  const keepGroup = () => {
    if (group.trim() !== (member.group ?? "")) change.mutate({ group: group.trim() || null, left });
  };
  return (
    <tr className={left ? classes.gone : undefined}>
      <td>
        {member.name}
        {member.is_trial && <span className={classes.dim}> · test user, counted nowhere</span>}
        {error && <Trouble error={error} />}
        {setting && <NewPassword id={id} member={member} onDone={() => setSetting(false)} />}
      </td>
      <td>{member.user_name}</td>
      <td>
        <TextInput
          size="xs"
          w={110}
          aria-label={`Group of ${member.name}`}
          list="groups"
          maxLength={30}
          value={group}
          onChange={(e) => setGroup(e.currentTarget.value)}
          onBlur={keepGroup}
          onKeyDown={(e) => e.key === "Enter" && keepGroup()}
        />
        <datalist id="groups">
          {groups.map((g) => (
            <option key={g} value={g} />
          ))}
        </datalist>
      </td>
      <td>
        {member.last_seen
          ? moment(member.last_seen)
          : member.has_password
            ? "Not yet"
            : "Has not signed in yet"}
      </td>
      <td>
        <Menu position="bottom-end" withinPortal>
          <Menu.Target>
            <UnstyledButton aria-label={`More for ${member.name}`}>More</UnstyledButton>
          </Menu.Target>
          <Menu.Dropdown>
            {member.may_reset && (
              <Menu.Item onClick={() => link.mutate()}>Create a one-time sign-in link</Menu.Item>
            )}
            {member.may_reset && <Menu.Item onClick={() => setSetting(true)}>Set a new password</Menu.Item>}
            <Menu.Item onClick={() => change.mutate({ group: member.group ?? null, left: !left })}>
              {left ? "Put back" : "Remove from the class"}
            </Menu.Item>
          </Menu.Dropdown>
        </Menu>
      </td>
    </tr>
  );
}
