import type { ReactNode } from 'react';
import type { EffectItem, Shot } from '../../../core/document/schema';

/** What an effect's panel shows besides the rows of its definition. */
export type EffectExtras = (
  shot: Shot,
  values: EffectItem['values'],
  item: EffectItem,
) => {
  readonly middle?: { readonly title: string; readonly content: ReactNode };
  readonly sections?: Readonly<Record<string, { readonly before?: ReactNode; readonly after?: ReactNode }>>;
  readonly foot?: { readonly title: string; readonly content: ReactNode };
};
