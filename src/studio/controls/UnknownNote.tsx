import { Section } from './rows';

/** What stands in the panel of something that another version of the program made. */
export const UnknownNote = ({ kind, out }: { kind: string; out: 'picture' | 'map' }) => (
  <Section last>
    “{kind.slice(0, 60)}” is not known to this version of Ombrage. It is kept as it is when you save, and left out of the {out}. You can delete it.
  </Section>
);
