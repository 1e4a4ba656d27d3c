/** Makes test/fixtures/sounds, files of other encoders to read: `npm run encoded`, with Debian's flac, lame, vorbis-tools, opus-tools, sox and ffmpeg. */
import { execFileSync } from 'node:child_process';
import { mkdirSync, mkdtempSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { writeWav } from '../src/core/formats/wav';
import { encodedSource, LONG_FRAMES, SHORT_FRAMES } from '../test/support/encodedSounds';

const TARGET = 'test/fixtures/sounds';
const folder = mkdtempSync(join(tmpdir(), 'kinetikon-sounds-'));
const source = (name: string, frames: number, channels: number) => {
  const path = join(folder, name);
  // 24 bits hold the 16 of the source as they are: no dither.
  writeFileSync(path, writeWav(encodedSource(frames, channels), '24'));
  return path;
};
const short = source('short.wav', SHORT_FRAMES, 2);
const long = source('long.wav', LONG_FRAMES, 2);
const mono = source('mono.wav', LONG_FRAMES, 1);
const six = source('six.wav', LONG_FRAMES, 6);
const sixPlaced = join(folder, 'placed.wav');
const run = (command: string, ...args: readonly string[]) => execFileSync(command, args, { stdio: 'inherit' });
const out = (name: string) => join(TARGET, name);
const sox = (name: string, ...options: readonly string[]) => run('sox', '-D', short, ...options, out(name));
const ffmpeg = (input: string, path: string, ...options: readonly string[]) =>
  run(
    'ffmpeg',
    '-loglevel',
    'error',
    '-y',
    '-i',
    input,
    ...options,
    '-map_metadata',
    '-1',
    '-fflags',
    '+bitexact',
    path,
  );

mkdirSync(TARGET, { recursive: true });
sox('8.wav', '-b', '8', '-e', 'unsigned');
sox('16.wav', '-b', '16');
sox('32.wav', '-b', '32');
sox('64f.wav', '-b', '64', '-e', 'floating-point');
sox('a-law.wav', '-e', 'a-law');
sox('mu-law.wav', '-e', 'u-law');
sox('24.aiff', '-b', '24');
sox('8.aiff', '-b', '8');
ffmpeg(short, out('extensible.wav'), '-c:a', 'pcm_s24le');
ffmpeg(short, out('rf64.wav'), '-c:a', 'pcm_s16le', '-rf64', 'always');
ffmpeg(short, out('16-little.aifc'), '-c:a', 'pcm_s16le', '-f', 'aiff');
ffmpeg(short, out('32f.aifc'), '-c:a', 'pcm_f32be', '-f', 'aiff');
run('flac', '--silent', '--force', '-o', out('24.flac'), short);
run('lame', '--quiet', '-b', '192', long, out('constant.mp3'));
run('lame', '--quiet', '-V', '2', long, out('variable.mp3'));
run('lame', '--quiet', '-t', '-b', '192', long, out('untagged.mp3'));
run('lame', '--quiet', '-m', 'm', '-b', '96', mono, out('mono.mp3'));
ffmpeg(long, out('other.mp3'), '-b:a', '192k');
run('oggenc', '-Q', '-q', '6', '-s', '1', long, '-o', out('stereo.ogg'));
ffmpeg(six, sixPlaced, '-af', 'aformat=channel_layouts=5.1', '-c:a', 'pcm_s24le');
run('oggenc', '-Q', '-q', '6', '-s', '1', sixPlaced, '-o', out('six.ogg'));
run('opusenc', '--quiet', '--serial', '1', '--bitrate', '192', long, out('stereo.opus'));
run('opusenc', '--quiet', '--serial', '1', '--bitrate', '384', sixPlaced, out('six.opus'));
ffmpeg(long, out('other.opus'), '-b:a', '192k');
ffmpeg(short, out('flac-in-ogg.ogg'), '-c:a', 'flac');
ffmpeg(long, out('mp4.m4a'), '-c:a', 'aac', '-b:a', '128k');
ffmpeg(long, out('adts.aac'), '-c:a', 'aac', '-b:a', '128k');
ffmpeg(sixPlaced, out('six.m4a'), '-c:a', 'aac', '-b:a', '512k');

const facts = join(folder, 'facts.txt');
writeFileSync(
  facts,
  [
    ';FFMETADATA1',
    'title=Gate, take 2',
    'date=2026-03-01',
    ...['[CHAPTER]', 'TIMEBASE=1/1000', 'START=0', 'END=100', 'title=Breath'],
    ...['[CHAPTER]', 'TIMEBASE=1/1000', 'START=100', 'END=250', 'title=Word'],
  ].join('\n'),
);
const told = (name: string, ...options: readonly string[]) =>
  run(
    'ffmpeg',
    ...['-loglevel', 'error', '-y', '-i', short, '-i', facts, '-map_metadata', '1', '-fflags', '+bitexact'],
    ...['-t', '0.25', ...options, out(name)],
  );
told(
  'told.wav',
  '-write_bext',
  '1',
  '-metadata',
  'time_reference=172800000',
  '-metadata',
  'origination_date=2026-03-02',
);
told('told.flac', '-metadata', 'TEMPO=96.5', '-metadata', 'KEY=D minor');
told('told.mp3', '-metadata', 'TBPM=96', '-metadata', 'TKEY=Dm', '-b:a', '96k');
told('told.aiff');
run(
  'oggenc',
  '-Q',
  '-q',
  '0',
  '-s',
  '1',
  '-t',
  'Gate, take 2',
  '-d',
  '2026-03-01',
  '-c',
  'BPM=96.5',
  '-c',
  'CHAPTER001=00:00:00.100',
  '-c',
  'CHAPTER001NAME=Word',
  short,
  '-o',
  out('told.ogg'),
);
run(
  'opusenc',
  '--quiet',
  '--serial',
  '1',
  '--bitrate',
  '48',
  '--title',
  'Gate, take 2',
  '--date',
  '2026-03-01',
  '--comment',
  'KEY=D minor',
  short,
  out('told.opus'),
);
ffmpeg(sixPlaced, out('six.wav'), '-t', '0.05', '-c:a', 'pcm_s16le');
ffmpeg(sixPlaced, out('six.flac'), '-t', '0.05');
rmSync(folder, { recursive: true });
