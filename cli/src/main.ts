import { Command, CommanderError } from 'commander';
import { AudioTrouble } from '@sure-hand/audio-files';
import { backup, restore } from './folder.js';
import { bounceSong, editSong, kindsOfEdit, loudness, preflightOf, ride, value } from './commands.js';
import { Refused } from './refused.js';

const print = (json: unknown): void => void process.stdout.write(`${JSON.stringify(json, null, 1)}\n`);

function program(): Command {
  const sureHand = new Command('sure-hand')
    .description(
      'Ride, read and bounce song documents, and back up the folder of songs. JSON on standard output, messages on standard error.',
    )
    .exitOverride()
    .showHelpAfterError('(sure-hand --help lists the commands)');
  sureHand
    .command('ride')
    .description('run a moves list against a song with the recorder, and print the receipts')
    .requiredOption('--song <file>', 'the song document')
    .requiredOption('--moves <file>', 'the moves list')
    .requiredOption('--out <file>', 'where to write the song as it is afterwards')
    .action((options: Parameters<typeof ride>[0]) => print(ride(options)));
  sureHand
    .command('preflight')
    .description(
      'print what a pass from a time would write of every control, when and up to where, and what not and why',
    )
    .requiredOption('--song <file>', 'the song document')
    .requiredOption('--at <time>', 'where play would begin, in seconds')
    .action((options: Parameters<typeof preflightOf>[0]) => print(preflightOf(options)));
  sureHand
    .command('edit')
    .description('apply one edit to a song')
    .requiredOption('--song <file>', 'the song document')
    .requiredOption('--edit <file>', 'the edit')
    .requiredOption('--out <file>', 'where to write the song as it is afterwards')
    .addHelpText('after', `\nKinds of edit, by name in the field "kind", and their fields:\n${kindsOfEdit()}`)
    .action((options: Parameters<typeof editSong>[0]) => print(editSong(options)));
  sureHand
    .command('value')
    .description('print a control’s base, trim and effective value at times, in its unit')
    .requiredOption('--song <file>', 'the song document')
    .requiredOption('--control <id>', 'the control, such as voice/level')
    .requiredOption('--at <times>', 'times in seconds, such as 0,0.5,1')
    .action((options: Parameters<typeof value>[0]) => print(value(options)));
  sureHand
    .command('bounce')
    .description('render the mix, with the audio files beside the song document, to a stereo WAV file; solo is ignored')
    .requiredOption('--song <file>', 'the song document')
    .requiredOption('--out <file>', 'the WAV file to write')
    .option('--bits <depth>', '16 (with dither), 24 or 32f', '24')
    .option('--range <a,b>', 'only from a to b, in seconds')
    .action((options: Parameters<typeof bounceSong>[0]) => print(bounceSong(options)));
  sureHand
    .command('loudness')
    .description('measure a WAV file by ITU-R BS.1770-4 and EBU R 128; silence is −144')
    .argument('<file>', 'the WAV file, mono or stereo')
    .action((file: string) => print(loudness(file)));
  withFolderCommands(sureHand);
  return sureHand;
}

/** What looks after the folder of all songs. */
function withFolderCommands(sureHand: Command): void {
  sureHand
    .command('backup')
    .description('copy all songs, with their audio, undo and logs, into a folder; also while the server runs')
    .requiredOption('--to <folder>', 'an empty folder, or an earlier backup, which is renewed')
    .option('--data <folder>', 'the data folder; SURE_HAND_DATA or ./data where it is left out')
    .action(async (options: Parameters<typeof backup>[0]) => print(await backup(options)));
  sureHand
    .command('restore')
    .description('put a backup in the place of the data folder, while no server runs; what is there is kept aside')
    .requiredOption('--from <folder>', 'the backup')
    .option('--data <folder>', 'the data folder; SURE_HAND_DATA or ./data where it is left out')
    .action(async (options: Parameters<typeof restore>[0]) => print(await restore(options)));
}

/** Runs the command line; gives back its exit code. */
export async function main(argv: readonly string[]): Promise<number> {
  try {
    await program().parseAsync([...argv]);
    return 0;
  } catch (error) {
    if (error instanceof CommanderError) return error.exitCode;
    if (!(error instanceof Refused || error instanceof AudioTrouble)) throw error;
    process.stderr.write(`${error.message}\n`);
    return 1;
  }
}
