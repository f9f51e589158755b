import { create } from 'zustand';
import { OmbrageError } from '../../core/error';

export interface Notice {
  readonly id: number;
  readonly kind: 'error' | 'note';
  readonly text: string;
  readonly hint?: string;
  /** stays in sight until one of its actions is chosen */
  readonly stays?: boolean;
  readonly actions?: readonly { readonly label: string; run(): void }[];
}

/** What is being said at the moment. */
export const useNotices = create<{ readonly notices: readonly Notice[] }>()(() => ({ notices: [] }));

let nextNotice = 1;

export function notify(notice: Omit<Notice, 'id'>): number {
  const id = nextNotice++;
  useNotices.setState(({ notices }) => ({ notices: [...notices.filter((n) => n.text !== notice.text), { ...notice, id }] }));
  return id;
}

export const messageOf = (error: unknown): { text: string; hint: string } =>
  error instanceof OmbrageError
    ? { text: error.message, hint: error.hint }
    : { text: error instanceof Error ? error.message : String(error), hint: '' };

export const notifyError = (error: unknown): number => notify({ kind: 'error', ...messageOf(error) });

export function dismiss(id: number): void {
  useNotices.setState(({ notices }) => ({ notices: notices.filter((n) => n.id !== id) }));
}
