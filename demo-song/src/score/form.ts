/** Which material a section is made of. */
export type Material = 'intro' | 'verse' | 'chorus' | 'solo' | 'bridge' | 'outro';

/** A section as the band plays it. `take` counts the times its material has come; the last chorus is one more of them. */
export type FormSection = {
  readonly name: string;
  readonly material: Material;
  readonly bars: number;
  readonly take: number;
  /** Beats of a shorter bar added at its end; 0 for none. */
  readonly shortBar: number;
};

export const BPM = 92;
export const BEATS_PER_BAR = 4;
export const SEC_PER_BEAT = 60 / BPM;

/** A section with where it begins, in quarter notes and seconds. */
export type PlacedSection = FormSection & { readonly beat: number; readonly beats: number; readonly t: number };

/** The whole of a song's form, placed. */
export type Form = {
  readonly sections: readonly PlacedSection[];
  readonly beats: number;
  /** Seconds, with two seconds at the end for what rings on. */
  readonly length: number;
};

/** Places sections one after the other. */
function formOf(sections: readonly FormSection[]): Form {
  let beat = 0;
  const out = sections.map((section) => {
    const beats = section.bars * BEATS_PER_BAR + section.shortBar;
    const here = { ...section, beat, beats, t: beat * SEC_PER_BEAT };
    beat += beats;
    return here;
  });
  return { sections: out, beats: beat, length: Math.ceil((beat * SEC_PER_BEAT + 2) * 100) / 100 };
}

const section = (name: string, material: Material, bars: number, take = 1, shortBar = 0): FormSection => ({
  name,
  material,
  bars,
  take,
  shortBar,
});

/** “Weir Lights”: 72 bars of 4/4 and one of 2/4 before the last chorus. */
export const WEIR_LIGHTS: Form = formOf([
  section('Intro', 'intro', 4),
  section('Verse 1', 'verse', 12, 1),
  section('Chorus 1', 'chorus', 8, 1),
  section('Verse 2', 'verse', 12, 2),
  section('Chorus 2', 'chorus', 8, 2),
  section('Fiddle solo', 'solo', 8),
  section('Bridge', 'bridge', 8, 1, 2),
  section('Last chorus', 'chorus', 8, 3),
  section('Outro', 'outro', 4),
]);

/** Eight bars for tests: a bit of verse, a bit of chorus. */
export const SHORT_SONG: Form = formOf([section('Verse', 'verse', 4, 1), section('Chorus', 'chorus', 4, 1)]);
