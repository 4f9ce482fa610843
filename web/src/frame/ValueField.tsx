import { useState, type ReactNode } from 'react';
import { TextInput } from '@mantine/core';
import { mutedBy } from '@sure-hand/core/groups';
import { isHeardUnderSolo } from '@sure-hand/core/mix';
import { ownByHands } from '@sure-hand/core/pass';
import { controlOf, layerScale, withTrimAt, type ControlId } from '@sure-hand/core/song';
import { parseValue, printDb } from '@sure-hand/core/units';
import { partsWords, whySoQuiet } from '../hands/familyWords.js';
import { heardCap } from '../hands/heardCap.js';
import { useMoment } from '../open/useMoment.js';
import { PlainButton } from '../parts/PlainButton.js';
import { Tip } from '../parts/Tip.js';
import { WrongOver } from '../parts/WrongOver.js';
import { useAppDispatch, useAppSelector } from '../store/store.js';
import { didSomething, typingSet } from '../store/viewSlice.js';
import { sumWithVcas } from '../views/ride/drawSum.js';

/** The value of the control in hand, as text to read and, opened, as a field to type into. */
export function ValueField({ id }: { id: ControlId }): ReactNode {
  const { session, control } = useMoment();
  const dispatch = useAppDispatch();
  const typing = useAppSelector((state) => state.view.typing);
  const [wrong, setWrong] = useState<string | null>(null);
  const { recorder } = session;
  const layer = recorder.layerOf(id);
  const isTrim = layer === 'trim';
  const scale = layerScale(controlOf(recorder.song, id), layer);
  const value = heardCap(recorder, session.heardSong, id, control.position);
  const close = (): void => {
    setWrong(null);
    dispatch(typingSet(false));
  };
  const enter = (typed: string): void => {
    const read = parseValue(scale, typed);
    if (!read.ok) return setWrong(read.sentence);
    control.typeValue(id, read.value);
    close();
  };
  if (typing)
    return (
      <WrongOver sentence={wrong}>
        <TextInput
          autoFocus
          w={112}
          aria-label="Value"
          error={wrong !== null}
          placeholder={scale.print(value)}
          onBlur={close}
          onKeyDown={(event) => {
            if (event.key === 'Enter') enter(event.currentTarget.value);
            if (event.key === 'Escape') close();
          }}
        />
      </WrongOver>
    );
  const result = isTrim ? withTrimAt(session.heardSong, id, value, control.position) : null;
  return (
    <div className={isTrim ? 'value-and-sum is-beside' : 'value-and-sum'}>
      <Tip label={isTrim ? 'The offset, and the result under it. Type an offset (=)' : 'Type a value (=)'}>
        <PlainButton className="value" data-testid="value" onClick={() => dispatch(typingSet(true))}>
          {scale.print(value)}
          {result !== null && (
            <span className="value-result" data-testid="result">
              → {printDb(result)}
            </span>
          )}
        </PlainButton>
      </Tip>
      <Sum id={id} />
    </div>
  );
}

/**
 * What is heard of a level with the VCAs over it, where that is another, or that nothing is; its parts when it is pointed at, and why
 * it is so when it is pressed.
 */
function Sum({ id }: { id: ControlId }): ReactNode {
  const { session, control } = useMoment();
  const dispatch = useAppDispatch();
  const { recorder, heardSong } = session;
  const own = ownByHands(recorder, heardSong, control.position);
  const { kind, channel } = controlOf(heardSong, id);
  if (kind !== 'level') return null;
  const isSilent = mutedBy(heardSong, channel, own).length > 0 || !isHeardUnderSolo(heardSong, channel);
  const sum = sumWithVcas(heardSong, id, own);
  if (sum === null && !isSilent) return null;
  const parts = partsWords(heardSong, id, own);
  return (
    <Tip label={`${parts ? `${parts}. ` : ''}Why is it so quiet? (Alt+Q)`}>
      <PlainButton
        className="value-sum"
        data-testid="sum"
        onClick={() => dispatch(didSomething(whySoQuiet(heardSong, id, own)))}
      >
        {isSilent ? 'silent' : `sum ${printDb(sum!)}`}
      </PlainButton>
    </Tip>
  );
}
