import { useRef } from 'react';
import { advanceFormState, type Entered, type FormGiven, type FormState } from './form-state.ts';

/** The form as it is now. Of a form that was there before, only what was entered since is evaluated. */
export function useFormState(given: FormGiven, entered: Entered): FormState {
  const last = useRef<FormState | null>(null);
  last.current = advanceFormState(last.current, given, entered);
  return last.current;
}
