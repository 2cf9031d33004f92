import { Modal, Table } from "@mantine/core";

const keys = [
  ["Ctrl + Enter", "Check"],
  ["Alt + ← and Alt + →", "Previous question, next question"],
  ["Alt + 1, Alt + 2, Alt + 3", "Help, workings and tries in the margin"],
  ["Alt + P", "Put aside"],
  ["?", "This list (outside a field)"],
];

export function ShortcutList({ opened, onClose }: { opened: boolean; onClose: () => void }) {
  return (
    <Modal opened={opened} onClose={onClose} title="Keys" closeButtonProps={{ "aria-label": "Close" }}>
      <Table>
        <Table.Tbody>
          {keys.map(([key, what]) => (
            <Table.Tr key={key}>
              <Table.Td>{key}</Table.Td>
              <Table.Td>{what}</Table.Td>
            </Table.Tr>
          ))}
        </Table.Tbody>
      </Table>
    </Modal>
  );
}
