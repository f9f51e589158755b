import { importedContentSchema, type ImportedContent } from '../../core/depth/layers/imported';
import type { MapFacts } from '../mapFacts';
import type { MapProposal } from './proposal';

/** What was found in a file, as its layer keeps it. */
export const foundIn = ({ facts, proposal }: { readonly facts: MapFacts; readonly proposal: MapProposal }): ImportedContent =>
  importedContentSchema.parse({
    channel: facts.channel,
    reading: proposal.reading,
    found: {
      format: facts.format,
      bits: facts.bits,
      float: facts.float,
      channels: [...facts.channels],
      low: facts.low,
      high: facts.high,
      holes: facts.holes,
      colourful: facts.colourful,
      ends: proposal.ends && { near: proposal.ends.near, far: Number.isFinite(proposal.ends.far) ? proposal.ends.far : null },
      agreement: proposal.agreement,
      because: proposal.because,
    },
  });
