import { registryOf } from '../../core/values/registry';
import type { ChannelSource } from './definition';
import { faceChannels } from './face';
import { keyChannels } from './keys';
import { microphoneChannels } from './microphone';
import { midiChannels } from './midi';
import { nearestChannels } from './nearest';
import { pointerChannels } from './pointer';

/** Everything that may be heard besides a source's own channels, as it is offered. */
export const channelSources = registryOf<ChannelSource>('source of channels', [
  nearestChannels,
  faceChannels,
  pointerChannels,
  keyChannels,
  microphoneChannels,
  midiChannels,
]);
