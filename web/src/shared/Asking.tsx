import { Button, Group, Modal } from "@mantine/core";
import type { ReactNode } from "react";

type Props = {
  opened: boolean;
  title: string;
  children: ReactNode;
  /** What is done, and what is left as it is. */
  confirm: string;
  leave: string;
  pending?: boolean;
  onConfirm: () => void;
  onLeave: () => void;
};

/** Asks before something that can't be undone. The focus begins on the way back, never on what would be done. */
export function Asking({
  opened,
  title,
  children,
  confirm,
  leave,
  pending = false,
  onConfirm,
  onLeave,
}: Props) {
  return (
    <Modal
      opened={opened}
      onClose={onLeave}
      title={title}
      attributes={{ content: { role: "alertdialog" } }}
      centered
      closeButtonProps={{ "aria-label": "Close" }}
    >
      {children}
      <Group mt={16}>
        <Button loading={pending} onClick={onConfirm}>
          {confirm}
        </Button>
        <Button variant="default" onClick={onLeave} data-autofocus>
          {leave}
        </Button>
      </Group>
    </Modal>
  );
}
