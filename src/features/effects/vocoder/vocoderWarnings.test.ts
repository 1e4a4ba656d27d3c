import { warningsOf } from './vocoderWarnings';

const hz = [100, 200, 400, 800, 1600, 3200, 6400];
const level = (db: number) => hz.map(() => db);

describe('warnings of the vocoder', () => {
  it('are none where voice and carrier have the same bands', () => {
    expect(warningsOf({ hz, voice: level(-20), carrier: level(-30) }, false)).toEqual([]);
    // While nobody speaks nothing is wrong.
    expect(warningsOf({ hz, voice: level(-120), carrier: level(-120) }, false)).toEqual([]);
  });

  it('name the bands in which the carrier has nothing for the voice', () => {
    const carrier = [-20, -20, -20, -80, -90, -20, -80];
    expect(warningsOf({ hz, voice: level(-20), carrier }, false)).toEqual([
      'The carrier has nothing where the voice has: 800 Hz to 1.6 kHz, 6.4 kHz.',
    ]);
    const voice = [-20, -20, -20, -70, -70, -20, -70];
    expect(warningsOf({ hz, voice, carrier }, false)).toEqual([]);
  });

  it('tell of a low voice, a silent carrier, and one sound as both', () => {
    expect(warningsOf({ hz, voice: level(-60), carrier: level(-20) }, false)[0]).toContain('very low here: -60 dB');
    expect(warningsOf({ hz, voice: level(-20), carrier: level(-120) }, false)).toEqual(['The carrier is silent.']);
    expect(warningsOf({ hz, voice: level(-20), carrier: level(-20) }, true)[0]).toContain('the same sound');
  });
});
