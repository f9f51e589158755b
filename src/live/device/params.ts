/** Where a device is looked for where nothing else is said: `npm run device` serves there. */
export const DEVICE_ADDRESS = 'ws://localhost:9210';
