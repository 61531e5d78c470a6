import { Button, Group } from '@mantine/core';
import type { HandOff } from '@ypomet/core';
import { useEffect, useRef } from 'react';
import { Notice } from '../../shared/Notice.tsx';
import type { Question } from './before-handing-on.ts';
import classes from './ParticipantForm.module.css';

type Props = {
  readonly handOff: HandOff;
  readonly questions: readonly Question[];
  /** The value of a field that would be dropped, as people read it. */
  readonly say: (field: string) => string;
  readonly onGoOn: () => void;
  readonly onBack: () => void;
};

/** Asks once before a hand-off that does more than meets the eye: it drops answers, ends something, or goes without files. */
export function AskFirst({ handOff, questions, say, onGoOn, onBack }: Props) {
  const back = useRef<HTMLButtonElement>(null);
  useEffect(() => back.current?.focus(), []);
  return (
    <div
      role="alertdialog"
      aria-label={`Before “${handOff.name}”`}
      onKeyDown={(event) => {
        if (event.key === 'Escape') onBack();
      }}
    >
      <Notice tone="caution" title={`Before “${handOff.name}”`}>
        <ul className={classes.list}>
          {questions.map((question) => (
            <li key={question.kind}>
              <Asked question={question} say={say} />
            </li>
          ))}
        </ul>
        <Group gap={8} mt={8}>
          <Button ref={back} size="compact-md" variant="default" onClick={onBack}>
            Back to the form
          </Button>
          <Button size="compact-md" onClick={onGoOn}>
            {handOff.name} all the same
          </Button>
        </Group>
      </Notice>
    </div>
  );
}

function Asked({ question, say }: { readonly question: Question; readonly say: Props['say'] }) {
  switch (question.kind) {
    case 'dropped': {
      const { fields } = question;
      const told = fields.map(({ field }) => `${field.name} (${say(field.key)})`).join(', ');
      return `${fields.length === 1 ? '1 answer' : `${fields.length} answers`} will be dropped, as your other answers no longer ask for them: ${told}.`;
    }
    case 'nudged':
      return question.open === 1
        ? 'The one field that is worth having is empty.'
        : `All ${question.open} fields that are worth having are empty.`;
    case 'unsent-files':
      return question.count === 1
        ? 'A file couldn’t be sent, and would not go along. Try it again above, or let it go.'
        : `${question.count} files couldn’t be sent, and would not go along. Try them again above, or let them go.`;
    case 'final':
      return question.handOff.confirmation || 'This can’t be taken back.';
    default:
      return question satisfies never;
  }
}
