import { Checkbox, Modal, Table } from "@mantine/core";
import { useState } from "react";
import { setSingleKeys, singleKeysOn } from "./keys";

const keys = [
  ["Ctrl + Enter", "Check"],
  ["Alt + ← and Alt + →", "Previous question, next question (outside a field)"],
  ["Alt + 1, Alt + 2, Alt + 3", "Help, workings and tries in the margin"],
  ["Alt + P", "Put aside"],
  ["?", "This list (outside a field)"],
];

export function ShortcutList({ opened, onClose }: { opened: boolean; onClose: () => void }) {
  const [single, setSingle] = useState(singleKeysOn);
  return (
    <Modal
      opened={opened}
      onClose={onClose}
      title="Keyboard shortcuts"
      closeButtonProps={{ "aria-label": "Close" }}
    >
      <Table>
        <Table.Tbody>
          {keys.map(([key, what]) => (
            <Table.Tr key={key}>
              <Table.Td style={{ whiteSpace: "nowrap" }}>{key}</Table.Td>
              <Table.Td>{what}</Table.Td>
            </Table.Tr>
          ))}
        </Table.Tbody>
      </Table>
      <Checkbox
        mt="md"
        label="Use keys without Ctrl or Alt"
        description="When this is off, “?” does nothing. This list is in the menu under your name."
        checked={single}
        onChange={(e) => {
          setSingle(e.currentTarget.checked);
          setSingleKeys(e.currentTarget.checked);
        }}
      />
    </Modal>
  );
}
