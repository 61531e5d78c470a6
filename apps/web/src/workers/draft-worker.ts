import { loadPatternEngine } from '@ypomet/core';
import { DraftExaminer } from './draft-examiner.ts';
import type { ToWorker } from './draft-messages.ts';

const examiner = new DraftExaminer(
  (message) => self.postMessage(message),
  (run) => setTimeout(run, 0),
);
const ready = loadPatternEngine();
self.addEventListener('message', ({ data }: MessageEvent<ToWorker>) => void ready.then(() => examiner.take(data)));
