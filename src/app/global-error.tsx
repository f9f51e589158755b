'use client';

/** Stands where even the frame of the page failed. */
export default function GlobalError({ error, reset }: { error: Error; reset: () => void }) {
  return (
    <html lang="en" style={{ background: '#1a1a19', color: '#e6e1d6', fontFamily: 'sans-serif' }}>
      <body style={{ margin: 0, height: '100vh', display: 'grid', placeContent: 'center', gap: 12, textAlign: 'center' }}>
        <h1 style={{ fontSize: 16, margin: 0 }}>Ombrage could not be shown.</h1>
        <p style={{ margin: 0, maxWidth: 520 }}>Your projects are kept in this browser. ({error.message.slice(0, 300)})</p>
        <p style={{ margin: 0 }}>
          <button onClick={reset}>Show it again</button>
        </p>
      </body>
    </html>
  );
}
