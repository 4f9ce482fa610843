import type { ReactNode } from 'react';
import { Menu } from '@mantine/core';
import { IconCheck, IconFilter, IconMagnet, IconWaveSine, IconX } from '@tabler/icons-react';
import { MODES } from '@sure-hand/core/song';
import { GRIDS } from '@sure-hand/core/time';
import { CONTROL_KINDS, GRID_NAMES, KIND_NAMES, MODE_NAMES, NO_FILTER, isFiltering } from '../../hands/laneFilter.js';
import { PlainButton } from '../../parts/PlainButton.js';
import { Tip } from '../../parts/Tip.js';
import { useAppDispatch, useViewParts } from '../../store/store.js';
import { filtered, gridChosen } from '../../store/viewSlice.js';
import { NameFilter } from './NameFilter.js';

/** Which rows are looked at, and what hands snap to: in the corner over the heads. */
export function LookedAt(): ReactNode {
  const dispatch = useAppDispatch();
  const { filter } = useViewParts('filter');
  return (
    <div className={isFiltering(filter) ? 'looked-at is-filtering' : 'looked-at'}>
      <NameFilter id="rows-by-name" label="Rows by name" hint="Rows" />
      <Tip label="Only what has curves (Alt+A)">
        <PlainButton
          className={filter.onlyCurves ? 'small is-on' : 'small'}
          aria-label="Only what has curves"
          aria-pressed={filter.onlyCurves}
          onClick={() => dispatch(filtered({ onlyCurves: !filter.onlyCurves }))}
        >
          <IconWaveSine size={14} />
        </PlainButton>
      </Tip>
      <FilterMenu />
      {isFiltering(filter) && (
        <Tip label="All rows again">
          <PlainButton className="small" aria-label="All rows again" onClick={() => dispatch(filtered(NO_FILTER))}>
            <IconX size={14} />
          </PlainButton>
        </Tip>
      )}
      <GridMenu />
    </div>
  );
}

function FilterMenu(): ReactNode {
  const dispatch = useAppDispatch();
  const { filter } = useViewParts('filter');
  const isOn = filter.kind !== null || filter.mode !== null;
  return (
    <Menu position="bottom-start">
      <Menu.Target>
        <PlainButton
          className={isOn ? 'small is-on' : 'small'}
          aria-label="Rows by kind and mode"
          title="Rows by kind and mode"
        >
          <IconFilter size={14} />
        </PlainButton>
      </Menu.Target>
      <Menu.Dropdown>
        <Menu.Label>Lanes of a kind</Menu.Label>
        {CONTROL_KINDS.map((kind) => (
          <Menu.Item
            key={kind}
            fw={filter.kind === kind ? 700 : 400}
            rightSection={filter.kind === kind && <IconCheck size={14} />}
            onClick={() => dispatch(filtered({ kind: filter.kind === kind ? null : kind }))}
          >
            {KIND_NAMES[kind]}
          </Menu.Item>
        ))}
        <Menu.Divider role="separator" />
        <Menu.Label>Channels in a mode</Menu.Label>
        {MODES.map((mode) => (
          <Menu.Item
            key={mode}
            fw={filter.mode === mode ? 700 : 400}
            rightSection={filter.mode === mode && <IconCheck size={14} />}
            onClick={() => dispatch(filtered({ mode: filter.mode === mode ? null : mode }))}
          >
            {MODE_NAMES[mode]}
          </Menu.Item>
        ))}
      </Menu.Dropdown>
    </Menu>
  );
}

function GridMenu(): ReactNode {
  const dispatch = useAppDispatch();
  const { grid } = useViewParts('grid');
  const words = grid ? GRID_NAMES[grid] : 'Off';
  return (
    <Menu position="bottom-start">
      <Menu.Target>
        <PlainButton
          className="small grid"
          aria-label={`Snap: ${words}`}
          title={`Snaps to: ${words} (Alt held: to nothing)`}
        >
          <IconMagnet size={13} />
          {grid ? grid.replace('section', 'sect').replace('frame', 'fr') : 'off'}
        </PlainButton>
      </Menu.Target>
      <Menu.Dropdown>
        <Menu.Label>Ranges and points snap to</Menu.Label>
        {GRIDS.map((one) => (
          <Menu.Item key={one} fw={one === grid ? 700 : 400} onClick={() => dispatch(gridChosen(one))}>
            {GRID_NAMES[one]}
          </Menu.Item>
        ))}
        <Menu.Item fw={grid === null ? 700 : 400} onClick={() => dispatch(gridChosen(null))}>
          Nothing
        </Menu.Item>
      </Menu.Dropdown>
    </Menu>
  );
}
