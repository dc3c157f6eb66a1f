import { configFromEnvironment, playsApart } from './config.ts';

describe('Where learning objects are played', () => {
  const of = (address: string, playAddress?: string) =>
    playsApart(
      configFromEnvironment({
        TREENAIL_DATA: '/nowhere',
        TREENAIL_SECRET: '0'.repeat(64),
        TREENAIL_ADDRESS: address,
        TREENAIL_PLAY_PORT: '4710',
        ...(playAddress === undefined ? {} : { TREENAIL_PLAY_ADDRESS: playAddress }),
      }),
    );

  it('is a host of its own, whatever its port and the letters that it is written with', () => {
    expect(of('http://127.0.0.1:4700')).toBeTrue();
    expect(of('https://treenail.college.example', 'https://play.college.example')).toBeTrue();
    expect(of('http://localhost:4700')).toBeFalse();
    expect(of('https://treenail.college.example', 'https://TREENAIL.college.example:8443')).toBeFalse();
  });
});
