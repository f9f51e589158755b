#!/usr/bin/env node
// The command line, bundled where it is not yet.
import { pathToFileURL } from 'node:url';
import { builtHeadless } from './buildHeadless.mjs';

const bundle = await builtHeadless();
await import(pathToFileURL(bundle).href);
