import type { MetadataRoute } from 'next';
import { tokens } from '../theme/tokens';

/** For installing the application from the browser. */
export default function manifest(): MetadataRoute.Manifest {
  return {
    name: 'Ombrage',
    short_name: 'Ombrage',
    description: 'Depth maps for pictures, and effects driven by real distances.',
    start_url: '/',
    display: 'standalone',
    background_color: tokens.base,
    theme_color: tokens.base,
    icons: [
      { src: '/icons/192.png', sizes: '192x192', type: 'image/png' },
      { src: '/icons/512.png', sizes: '512x512', type: 'image/png' },
      { src: '/icons/maskable.png', sizes: '512x512', type: 'image/png', purpose: 'maskable' },
    ],
  };
}
