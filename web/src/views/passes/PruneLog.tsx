import { useEffect, useState, type ReactNode } from 'react';
import { Button, Group, Stack, Text } from '@mantine/core';
import type { Pruned } from '@sure-hand/server';
import { counted, printCount } from '../../hands/countWords.js';
import { NumberField } from '../../parts/NumberField.js';
import { useOpenSong } from '../../open/OpenSongProvider.js';
import { forecastPruning, pruneLog } from '../../song/songApi.js';

/** So many of the last entries stay where nobody says otherwise; of a log that has no more nothing is offered. */
const KEEP = 50;

/** What pruning would do, in a sentence. */
function forecastWords({ entries, named, undo, redo, bytes }: Pruned): string {
  if (!entries) return 'Nothing would go.';
  const size = bytes >= 1e5 ? ` (about ${(bytes / 1e6).toFixed(1)} MB)` : '';
  return [
    `${counted(entries, 'entry goes for good, with what it', 'entries go for good, with what they')} found and left${size}; the curves of the song stay as they are.`,
    named ? `${counted(named, 'older one has a name and stays', 'older ones have names and stay')}.` : '',
    undo ? `${counted(undo, 'step', 'steps')} of undo ${undo === 1 ? 'goes' : 'go'} with them.` : '',
    redo ? `What was undone (${counted(redo, 'step', 'steps')}) can’t be done again then.` : '',
  ]
    .filter(Boolean)
    .join(' ');
}

/** What pruning would do, asked anew with each number and as the log grows; the sentence where it can't be known. */
function useForecast(keep: number, entries: number): { forecast: Pruned | null; trouble: string | null } {
  const { id } = useOpenSong();
  const [forecast, setForecast] = useState<Pruned | null>(null);
  const [trouble, setTrouble] = useState<string | null>(null);
  useEffect(() => {
    let left = false;
    forecastPruning(id, keep).then(
      (found) => !left && setForecast(found),
      (error: Error) => !left && setTrouble(error.message),
    );
    return () => void (left = true);
  }, [id, keep, entries]);
  return { forecast, trouble };
}

type AskedProps = {
  readonly entries: number;
  readonly prune: (keep: number) => Promise<void>;
  readonly onKeepAll: () => void;
};

/** How many are kept, and what that comes to, before anything is done. */
function Asked({ entries, prune, onKeepAll }: AskedProps): ReactNode {
  const [keep, setKeep] = useState(KEEP);
  const [isBusy, setBusy] = useState(false);
  const { forecast, trouble } = useForecast(keep, entries);
  const gone = forecast?.entries ?? 0;
  return (
    <Stack gap="xs">
      <NumberField
        label="Keep the last, and all that have a name"
        size="xs"
        min={1}
        max={100_000}
        allowDecimal={false}
        value={keep}
        onValue={(value) => setKeep(Math.round(value))}
      />
      <Text fz="xs" data-testid="prune-forecast">
        {trouble ?? (forecast ? forecastWords(forecast) : 'Looking through the log …')}
      </Text>
      <Group gap="xs">
        <Button
          size="xs"
          color="hand"
          loading={isBusy}
          disabled={!gone}
          onClick={() => {
            setBusy(true);
            void prune(keep).finally(() => setBusy(false));
          }}
        >
          Prune{gone ? ` ${counted(gone, 'entry', 'entries')}` : ''}
        </Button>
        <Button size="xs" variant="default" autoFocus onClick={onKeepAll}>
          Keep all
        </Button>
      </Group>
    </Stack>
  );
}

type Props = {
  /** How many entries the log has. */
  readonly entries: number;
  readonly onPruned: () => void;
};

/** Takes old versions out of a long log: asked for, said before, and never by itself. */
export function PruneLog({ entries, onPruned }: Props): ReactNode {
  const { id } = useOpenSong();
  const [isAsked, ask] = useState(false);
  const [said, say] = useState<string | null>(null);
  const prune = async (keep: number): Promise<void> => {
    try {
      const { entries: gone } = await pruneLog(id, keep);
      say(`${counted(gone, 'entry is', 'entries are')} gone.`);
      ask(false);
      onPruned();
    } catch (error) {
      say((error as Error).message);
    }
  };
  if (entries <= KEEP && !said) return null;
  return (
    <div className="prune-log">
      {said && (
        <Text fz="xs" role="status">
          {said}
        </Text>
      )}
      {isAsked ? (
        <Asked entries={entries} prune={prune} onKeepAll={() => ask(false)} />
      ) : (
        entries > KEEP && (
          <Group justify="space-between" wrap="nowrap">
            <Text fz="xs" c="dimmed">
              {printCount(entries)} entries
            </Text>
            <Button size="xs" variant="subtle" color="gray" onClick={() => ask(true)}>
              Prune the log…
            </Button>
          </Group>
        )
      )}
    </div>
  );
}
