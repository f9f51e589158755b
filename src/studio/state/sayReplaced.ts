import { notify } from '../notices/noticeStore';

/** A worker that ended is no secret: what it was doing begins anew, and that takes its time. */
export const sayReplaced = (): void =>
  void notify({
    kind: 'note',
    text: 'A computation stopped answering and was started again.',
    hint: 'Nothing is lost. If it happens again, close other programs: this machine may be out of memory.',
  });
