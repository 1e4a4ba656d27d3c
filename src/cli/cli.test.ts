import { EFFECTS } from '@/core/effects/registry';
import { mkdtempSync, readdirSync, readFileSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { largest, sine } from '../../test/support/render';
import { withSteady } from '../../test/support/steady';
import { KinetikonError } from '@/core/errors';
import { readSound } from '@/core/formats/readSound';
import { writeWav } from '@/core/formats/wav';
import { parseArguments } from './arguments';
import type { StereoField } from '@/core/analysis/stereoField';
import { writeMidiFile } from '@/core/formats/midi';
import { listEffects, measureSound, playNotes, processSound } from './commands';
import { writeImpulse } from './impulses';
import { writeSwell } from './swell';

withSteady();

describe('the command line', () => {
  const folder = mkdtempSync(join(tmpdir(), 'kinetikon-cli-'));
  const path = (name: string) => join(folder, name);
  const read = (name: string) => readSound(new Uint8Array(readFileSync(path(name))), name);
  const lines: string[] = [];
  const notes: string[] = [];
  const terminal = {
    out: (line: string) => lines.push(line),
    note: (line: string) => notes.push(line),
    progress: () => {},
  };

  beforeAll(() => {
    const click = new Float32Array(4800);
    click[0] = 0.5;
    writeFileSync(path('click.wav'), writeWav({ sampleRateHz: 48000, channels: [click] }, '32f'));
    const tone = sine(1000, 44100, 44100, 0.5);
    writeFileSync(path('tone.wav'), writeWav({ sampleRateHz: 44100, channels: [tone, tone] }, '24'));
  });
  beforeEach(() => {
    lines.splice(0);
    notes.splice(0);
  });
  afterAll(() => rmSync(folder, { recursive: true }));

  it('puts a sound somewhere around the head', async () => {
    const chain = ['--effect', 'place', '--set', 'render=binaural', '--set', 'azimuth=90', '--set', 'ears=0'];
    await processSound([path('click.wav'), '-o', path('placed.wav'), '--format', '32f', ...chain], terminal);
    const [left, right] = (await read('placed.wav')).channels as [Float32Array, Float32Array];
    const peak = (side: Float32Array) =>
      side.reduce((best, x, n) => (Math.abs(x) > Math.abs(side[best]!) ? n : best), 0);
    // Woodworth's time for a source at the side of a head of 8.75 cm: 0.66 ms.
    expect((peak(left) - peak(right)) / 48000).toBeCloseTo(0.00066, 4);
    expect(Math.abs(right[peak(right)]!)).toBeGreaterThan(10 ** (10 / 20) * Math.abs(left[peak(left)]!));
    await expect(
      processSound(
        [path('click.wav'), '-o', path('placed.wav'), '--effect', 'place', '--set', 'distance=90'],
        terminal,
      ),
    ).rejects.toThrow('distance takes 0.3 to 50 m (30 cm to 50 m), not 90 m.');
  });

  describe('with notes', () => {
    const note = (startBeat: number, key: number) => ({ startBeat, lengthBeats: 1, key, velocity: 127 });
    const timing = { tempoBpm: 90, metreBeats: 4, metreUnit: 4 };
    const amplitude = (sound: Float32Array, hz: number) =>
      Math.hypot(
        ...[Math.cos, Math.sin].map((wave) =>
          sound.reduce((sum, x, n) => sum + x * wave((2 * Math.PI * hz * n) / 48000), 0),
        ),
      ) / sound.length;
    const keyHz = (key: number) => 440 * 2 ** ((key - 69) / 12);
    const plain = ['--set', 'wave=fm', '--set', 'fmDepth=0', '--set', 'filterType=off'];

    beforeAll(() =>
      writeFileSync(path('two.mid'), writeMidiFile([{ name: 'two', notes: [note(0, 69), note(1, 76)] }], timing)),
    );

    it('plays a MIDI file at its tempo, or at another', async () => {
      for (const [tempo, beat] of [
        [[], 32000],
        [['--tempo', '120'], 24000],
      ] as const) {
        await playNotes([path('two.mid'), '-o', path('two.wav'), '--effect', 'synth', ...plain, ...tempo], terminal);
        const [left] = (await read('two.wav')).channels;
        const inside = (n: number) => left!.subarray(n * beat + 6000, (n + 1) * beat - 2000);
        expect(amplitude(inside(0), keyHz(69))).toBeGreaterThan(10 * amplitude(inside(0), keyHz(76)));
        expect(amplitude(inside(1), keyHz(76))).toBeGreaterThan(10 * amplitude(inside(1), keyHz(69)));
      }
    });

    it('gives notes to what plays them, and says so where nothing does', async () => {
      const tone = sine(147, 48000, 96000, 0.3).map((x, n) => x + 0.2 * Math.sin((2 * Math.PI * 441 * n) / 48000));
      writeFileSync(path('hum.wav'), writeWav({ sampleRateHz: 48000, channels: [tone] }, '32f'));
      const vocoder = ['--effect', 'vocoder', '--set', 'noteSource=lane', '--set', 'carrierVoices=1'];
      await processSound([path('hum.wav'), '-o', path('said.wav'), ...vocoder, '--notes', path('two.mid')], terminal);
      const [left] = (await read('said.wav')).channels;
      expect(amplitude(left!.subarray(8000, 28000), keyHz(69))).toBeGreaterThan(1e-3);
      const through = (...more: string[]) => processSound([path('hum.wav'), '-o', path('x.wav'), ...more], terminal);
      await expect(through('--effect', 'tilt', '--notes', path('two.mid'))).rejects.toThrow(
        'these do: harmony, vocoder, synth',
      );
      await expect(through('--effect', 'synth', '--notes', path('hum.wav'))).rejects.toThrow(
        'This MIDI file cannot be read',
      );
      await expect(through('--effect', 'vocoder', '--set', 'notes=H3')).rejects.toThrow(
        'H3 is neither a note nor a chord',
      );
      await expect(playNotes([path('none.mid'), '-o', path('x.wav'), '--effect', 'synth'], terminal)).rejects.toThrow(
        'There is no file',
      );
      await expect(playNotes(['--effect', 'synth'], terminal)).rejects.toThrow('play needs a MIDI file');
    });

    it('writes the course of a pitch as a table', async () => {
      await measureSound([path('hum.wav'), '--pitch'], terminal);
      expect(lines[0]).toBe('seconds,hz,key,confidence');
      expect(lines).toHaveLength(201);
      const [seconds, hz, key, confidence] = lines[101]!.split(',').map(Number);
      expect(seconds).toBe(1);
      expect(hz).toBeCloseTo(147, 0);
      expect(key).toBeCloseTo(50.02, 1);
      expect(confidence).toBeGreaterThan(0.95);
      await expect(measureSound([path('hum.wav'), '--pitch', '--json'], terminal)).rejects.toThrow(
        '--pitch writes a table',
      );
    });
  });

  it('lists effects for people and for programs', () => {
    listEffects([], terminal);
    expect(lines.join('\n')).toMatch(/lines\.1\.feedback\s+-110 % to 110 %; default 30 %/);
    lines.splice(0);
    listEffects(['--json'], terminal);
    expect((JSON.parse(lines[0]!) as { id: string }[]).map((spec) => spec.id)).toEqual(EFFECTS.map((spec) => spec.id));
  });

  it('takes a file, or the name of a shipped sound, for a setting that is a sound', async () => {
    writeFileSync(path('steady.wav'), writeWav({ sampleRateHz: 48000, channels: [Float32Array.of(0.25, 0)] }, '32f'));
    const through = async (sound: string) => {
      const chain = ['--effect', 'steady', '--set', 'factor=3', '--set', `sound=${sound}`];
      await processSound([path('click.wav'), '-o', path('steady-out.wav'), '--format', '32f', ...chain], terminal);
      return (await read('steady-out.wav')).channels[0]![100];
    };
    expect(await through(path('steady.wav'))).toBeCloseTo(0.75, 6);
    expect(await through('one')).toBeCloseTo(1.5, 6);
    await expect(through(path('nobody.wav'))).rejects.toThrow('nobody.wav');
    const long = new Float32Array(3 * 48000);
    writeFileSync(path('long.wav'), writeWav({ sampleRateHz: 48000, channels: [long] }, '16'));
    await expect(through(path('long.wav'))).rejects.toThrow('sound takes a sound of up to 2 s or one of one, broken');
    listEffects([], terminal);
    expect(lines.join('\n')).toMatch(/sound\s+a sound of up to 2 s or one of one, broken; default one/);
  });

  it('sends a sound through a chain: stereo, starting where it started, lasting as long as the tail', async () => {
    const chain = [
      '--effect',
      'delay',
      '--set',
      'lines.1.timeLeft=1/8d',
      '--set',
      'mix=50%',
      '--set',
      'lines.1.feedback=0',
      '--effect',
      'limiter',
    ];
    await processSound([path('click.wav'), '-o', path('out.wav'), '--format=32f', '--tempo', '84', ...chain], terminal);
    const out = await read('out.wav');
    expect(out.channels).toHaveLength(2);
    const [left, right] = out.channels as [Float32Array, Float32Array];
    expect(right).toEqual(left);
    expect([left[0], left[25714]].map((x) => x!.toFixed(6))).toEqual([0, 1].map(() => (0.5 * Math.SQRT1_2).toFixed(6)));
    expect(left.length / 48000).toBeCloseTo(0.1 + 0.5357 + 0.05, 2);
    await processSound(
      [path('tone.wav'), '-o', path('cut.flac'), '--effect', 'utility', '--tail', '0.5', '--rate', '48000'],
      terminal,
    );
    const flac = await read('cut.flac');
    expect([flac.sampleRateHz, flac.channels[0]!.length]).toEqual([48000, 72000]);
  });

  it('switches a line on that is named, and feeds lines one another', async () => {
    const lines = ['lines.1.timeLeft=10ms', 'lines.1.feedback=0', 'lines.2.timeLeft=5ms', 'lines.2.feedback=0'];
    const set = [...lines, 'routing=series', 'mix=100'].flatMap((one) => ['--set', one]);
    await processSound(
      [path('click.wav'), '-o', path('lines.wav'), '--format=32f', '--effect', 'delay', ...set],
      terminal,
    );
    const { channels } = await read('lines.wav');
    expect([...channels[0]!.keys()].filter((frame) => Math.abs(channels[0]![frame]!) > 1e-4)).toEqual([480, 720]);
  });

  it('steers keyed effects by another file', async () => {
    const chain = ['--effect', 'compressor', '--set', 'threshold=-40', '--set', 'ratio=100', '--set', 'knee=0'];
    const level = async (more: string[]) => {
      await processSound([path('tone.wav'), '-o', path('keyed.wav'), '--format', '32f', ...chain, ...more], terminal);
      const [left] = (await read('keyed.wav')).channels as [Float32Array];
      return Math.max(...left.slice(20000, 40000));
    };
    const own = await level([]);
    expect(await level(['--key', path('click.wav')])).toBeGreaterThan(own * 5);
    await expect(level(['--key', path('nobody.wav')])).rejects.toMatchObject({ code: 'file.missing' });
  });

  it('takes presets from files, checked', async () => {
    writeFileSync(path('quiet.json'), JSON.stringify({ effect: 'utility', values: { gain: -100 } }));
    await processSound(
      [path('tone.wav'), '-o', path('quiet.wav'), '--effect', 'utility', '--preset', path('quiet.json')],
      terminal,
    );
    expect((await read('quiet.wav')).channels[0]!.every((x) => x === 0)).toBe(true);
    await expect(
      processSound(
        [path('tone.wav'), '-o', path('x.wav'), '--effect', 'delay', '--preset', path('quiet.json')],
        terminal,
      ),
    ).rejects.toThrow('is a preset for utility, not for delay');
  });

  it('measures', async () => {
    await measureSound([path('tone.wav'), '--json'], terminal);
    const levels = JSON.parse(lines[0]!) as Record<string, number>;
    expect(levels.peakDb).toBeCloseTo(-6.02, 1);
    expect(levels.loudnessLufs).toBeCloseTo(-6.02, 0);
    lines.splice(0);
    await measureSound([path('tone.wav')], terminal);
    expect(lines.join('\n')).toMatch(/true peak\s+-6\.0 dBTP/);
  });

  it('widens a sound, and measures the field of it by octave', async () => {
    const set = (...values: string[]) => values.flatMap((one) => ['--set', one]);
    await processSound(
      [
        path('click.wav'),
        '-o',
        path('wide.wav'),
        '--format=32f',
        '--effect',
        'doubler',
        ...set('time=10ms', 'drift=0'),
      ],
      terminal,
    );
    const { channels } = await read('wide.wav');
    expect([channels[0]!.indexOf(Math.max(...channels[0]!)), channels[1]!.indexOf(Math.max(...channels[1]!))]).toEqual([
      0, 480,
    ]);
    await measureSound([path('wide.wav'), '--json'], terminal);
    const { field } = JSON.parse(lines.at(-1)!) as { field: StereoField };
    expect(field.octaves).toHaveLength(10);
    expect(Math.abs(field.tiltDb!)).toBeLessThan(0.1);
    lines.splice(0);
    await measureSound([path('wide.wav')], terminal);
    expect(lines.join('\n')).toMatch(/tilt +none[^]*1000 Hz +-?\d\.\d\d +\d+\.\d dB/);
    const matrix = ['--effect', 'midside', ...set('sideToSide.gain=-inf', 'autoLevel=off')];
    await processSound([path('wide.wav'), '-o', path('mono.wav'), '--format=32f', ...matrix], terminal);
    const mono = (await read('mono.wav')).channels;
    expect(mono[0]).toEqual(mono[1]);
    await expect(
      processSound(
        [path('wide.wav'), '-o', path('x.wav'), '--effect', 'midside', ...set('midToMid.delay=90')],
        terminal,
      ),
    ).rejects.toThrow('midToMid.delay takes 0 ms to 50 ms, not 90');
  });

  it('works an impulse out, plays a sound through it, and measures its room', async () => {
    const box = ['box', '-o', path('room.wav'), '--set', 'width=3', '--set', 'length=4m', '--set', 'walls=wood'];
    await writeImpulse([...box, '--seed', '5', '--rate', '44100'], terminal);
    const room = await read('room.wav');
    expect([room.sampleRateHz, room.channels.length]).toEqual([44100, 2]);
    await measureSound([path('room.wav'), '--impulse', '--json'], terminal);
    const { room: found } = JSON.parse(lines[0]!) as {
      room: { octaves: { centreHz: number; t30: number }[]; c50: number };
    };
    expect(found.octaves.find(({ centreHz }) => centreHz === 1000)!.t30).toBeGreaterThan(0.2);
    lines.splice(0);
    await measureSound([path('room.wav'), '--impulse'], terminal);
    expect(lines.join('\n')).toMatch(/ {2}1 kHz +\d\.\d\d s, early decay[\s\S]*clarity +C50/);

    const chain = ['--effect', 'convolution', '--set', `impulse=${path('room.wav')}`, '--set', 'mix=100'];
    await processSound([path('click.wav'), '-o', path('through.wav'), '--format', '32f', ...chain], terminal);
    const [left] = (await read('through.wav')).channels;
    expect(left!.findIndex((x) => Math.abs(x) > 1e-6)).toBeLessThan(5);
    expect(left!.length).toBeGreaterThan(4800);
    await writeImpulse(['closet', '-o', path('closet.flac')], terminal);
    expect((await read('closet.flac')).sampleRateHz).toBe(48000);
    lines.splice(0);
    await writeImpulse(['--list'], terminal);
    expect(lines.join('\n')).toContain('sourceAcross');

    const before = readdirSync(folder);
    for (const [args, reason] of [
      [['nowhere', '-o', path('x.wav')], 'There is no impulse "nowhere". Simulators: box, plate'],
      [['box', '-o', path('x.wav'), '--set', 'width=900'], 'width takes 1 m to 60 m, not 900'],
      [['box', '-o', path('x.wav'), '--set', 'depth=1'], 'box has no parameter depth'],
      [['box'], 'needs -o OUT'],
    ] as const) {
      await expect(writeImpulse(args, terminal)).rejects.toThrow(reason);
    }
    writeFileSync(path('none.wav'), writeWav({ sampleRateHz: 48000, channels: [new Float32Array(900)] }, '16'));
    await expect(
      processSound(
        [path('click.wav'), '-o', path('x.wav'), '--effect', 'convolution', '--set', `impulse=${path('none.wav')}`],
        terminal,
      ),
    ).rejects.toThrow('The impulse is silent.');
    rmSync(path('none.wav'));
    expect(readdirSync(folder)).toEqual(before);
  });

  it('writes a swell whose last frame is the landing', async () => {
    const late = new Float32Array(48000);
    late.set(sine(400, 48000, 9600, 0.4), 24000);
    writeFileSync(path('word.wav'), writeWav({ sampleRateHz: 48000, channels: [late] }, '32f'));
    const swell = ['--land', '0.5', '--source', '0.1', '--length', '0.8', '--effect', 'reverb', '--set', 'decay=1'];
    await writeSwell([path('word.wav'), '-o', path('swell.wav'), ...swell], terminal);
    const [left] = (await read('swell.wav')).channels;
    expect(left!.length).toBe(0.8 * 48000);
    const loud = (from: number) => Math.max(...left!.slice(from, from + 4800).map(Math.abs));
    expect(loud(33600)).toBeGreaterThan(5 * loud(9600));
    await writeSwell([path('word.wav'), '-o', path('over.wav'), ...swell, '--over'], terminal);
    expect((await read('over.wav')).channels[0]!.length).toBe(0.9 * 48000);
    await writeSwell([path('word.wav'), '-o', path('hall.flac'), '--land', '0.5'], terminal);
    expect((await read('hall.flac')).channels[0]!.length).toBeGreaterThan(3 * 48000);
    const before = readdirSync(folder);
    for (const [args, reason] of [
      [['--land', '7'], '--land takes 0 to 1 seconds, not "7"'],
      [[], 'needs --land'],
      [['--land', '0.5', '--gap', '99'], '--gap takes 0 to 10 seconds'],
    ] as const) {
      await expect(writeSwell([path('word.wav'), '-o', path('x.wav'), ...args], terminal)).rejects.toThrow(reason);
    }
    expect(readdirSync(folder)).toEqual(before);
  });

  it('says what a loud swell loses at full scale, and brings it down or keeps it where asked', async () => {
    const loud = ['--land', '0.5', '--source', '0.1', '--length', '0.8', '--level', '24'];
    const written = async (name: string, ...more: string[]) => {
      notes.length = 0;
      await writeSwell([path('word.wav'), '-o', path(name), ...loud, ...more], terminal);
      return { said: notes.join(' '), peak: largest((await read(name)).channels[0]!) };
    };
    expect(await written('cut.wav')).toMatchObject({
      said: expect.stringMatching(/samples passed full scale, by up to/),
    });
    const kept = await written('kept.wav', '--format', '32f');
    expect(kept.said).toBe('');
    expect(kept.peak).toBeGreaterThan(1);
    const lowered = await written('lowered.wav', '--normalise');
    expect(lowered.said).toMatch(/^The sound is lowered by/);
    expect(lowered.peak).toBeLessThan(0.9);
  });

  it('says what clips and by how much, and what helps', async () => {
    const louder = [path('tone.wav'), '-o', path('loud.wav'), '--effect', 'utility', '--set', 'gain=12'];
    await processSound([...louder, '--format', '24'], terminal);
    expect(notes.join()).toMatch(/loud\.wav: \d{4,} samples passed full scale, by up to 6\.0 dB/);
    expect(notes.join()).toContain('--normalise');
    expect(notes.join()).toContain('--format 32f');
    notes.splice(0);
    await processSound([...louder, '--format', '32f'], terminal);
    expect(notes).toEqual([]);
    await processSound([...louder, '--format', '24', '--normalise'], terminal);
    expect(notes).toEqual(['The sound is lowered by 7.0 dB.']);
    await measureSound([path('loud.wav'), '--json'], terminal);
    expect((JSON.parse(lines[0]!) as { truePeakDb: number }).truePeakDb).toBeCloseTo(-1, 1);
  });

  it('says what it decides about a file: channels, values that are no numbers, rates, endless tails', async () => {
    const odd = sine(500, 44100, 4410, 0.2);
    odd[7] = NaN;
    odd[9] = Infinity;
    const six = Array.from({ length: 6 }, () => odd);
    writeFileSync(path('six.wav'), writeWav({ sampleRateHz: 44100, channels: six }, '32f'));
    const into = ['-o', path('six-out.wav'), '--rate', '48000', '--effect', 'delay', '--set', 'lines.1.feedback=100'];
    await processSound([path('six.wav'), ...into, '--key', path('click.wav')], terminal);
    expect(notes.map((note) => note.replaceAll(folder, ''))).toEqual([
      '/six.wav has 6 channels; the first two are used.',
      '/six.wav holds 12 samples that are not numbers or lie above +120 dBFS; they are silence here.',
      '/six.wav is brought from 44100 Hz to 48000 Hz.',
      expect.stringContaining('--tail sets it'),
    ]);
  });

  it.each([
    [['--effect', 'delay', '--set', 'lines.1.timeLeft=4bar', '--tempo', '60'], '4 bars at 60 BPM would be 16 s'],
    [
      ['--effect', 'delay', '--set', 'lines.1.timeLeft=4s', '--set', 'lines.1.rightRatio=400'],
      'lines.1.rightRatio takes',
    ],
    [['--effect', 'choir'], 'There is no effect "choir"'],
    [['--effect', 'delay', '--set', 'mix=140'], 'mix takes 0 % to 100 %, not 140'],
    [['--effect', 'delay', '--set', 'depth=1'], 'delay has no parameter depth'],
    [['--effect', 'delay', '--set', 'mix'], 'NAME=VALUE'],
    [['--set', 'mix=1', '--effect', 'delay'], 'must come after the --effect'],
    [['--effect', 'delay', '--tempo', '5'], '--tempo takes 20 to 300 beats a minute, not "5"'],
    [['--effect', 'delay', '--format', 'mp9'], '--format takes 16, 24, 32f, flac'],
    [['--effect'], '--effect needs a value'],
    [['--loud'], 'There is no option --loud'],
    [['--effect', 'vocoder', '--set', 'noteSource=midi'], 'no MIDI device plays'],
    [[], 'at least one --effect'],
  ])('refuses %j with a reason, and writes nothing', async (args, reason) => {
    const before = readdirSync(folder);
    const work = processSound([path('tone.wav'), '-o', path('never.wav'), ...args], terminal);
    await expect(work).rejects.toThrow(KinetikonError);
    await expect(work).rejects.toThrow(reason);
    expect(readdirSync(folder)).toEqual(before);
  });

  it('says when a file is missing or cannot be written', async () => {
    await expect(measureSound([path('none.wav')], terminal)).rejects.toThrow('There is no file');
    await expect(
      processSound([path('tone.wav'), '-o', path('no/such/folder.wav'), '--effect', 'utility'], terminal),
    ).rejects.toThrow('cannot be written');
  });

  it('splits arguments', () => {
    const table = { '--a': true, '-o': true, '--json': false };
    expect(parseArguments(['x', '--a=1=2', '-o', 'y', '--json'], table)).toEqual({
      positional: ['x'],
      named: [
        ['--a', '1=2'],
        ['-o', 'y'],
        ['--json', ''],
      ],
    });
    expect(() => parseArguments(['--json=1'], table)).toThrow('takes no value');
  });
});
