import { useState, type ClipboardEvent } from 'react';
import { pasteWrong, type Bounds } from './numberTyped.js';

/** What is pasted into a field of numbers: one number gets in, of anything else a sentence says so, and what stood there stays. */
export function usePasted(bounds: Bounds): {
  readonly wrong: string | null;
  readonly onPasteCapture: (event: ClipboardEvent) => void;
  readonly forget: () => void;
} {
  const [wrong, setWrong] = useState<string | null>(null);
  return {
    wrong,
    // Before the field itself, which picks the figures out.
    onPasteCapture: (event) => {
      const sentence = pasteWrong(event.clipboardData.getData('text/plain'), bounds);
      setWrong(sentence);
      if (!sentence) return;
      event.preventDefault();
      event.stopPropagation();
    },
    forget: () => setWrong(null),
  };
}
