import { Button, Group, Modal } from '@mantine/core';
import { useFocusBack } from './use-focus-back.ts';

/** Asks whether to leave something unkept behind. */
export function LeaveDialog({
  what,
  onLeave,
  onStay,
}: {
  readonly what: string;
  readonly onLeave: () => void;
  readonly onStay: () => void;
}) {
  useFocusBack();
  return (
    <Modal opened onClose={onStay} title="Leave this page?" centered>
      <p style={{ marginTop: 0 }}>{what}</p>
      <Group justify="flex-end">
        <Button variant="default" onClick={onLeave}>
          Leave
        </Button>
        <Button onClick={onStay}>Stay</Button>
      </Group>
    </Modal>
  );
}
