import type { VideoSample, VideoSampleSink } from 'mediabunny';
import { expect, test } from 'vitest';
import { PictureStream } from './stream';

/** Pictures at every tenth of a second; which of them are closed. */
function pictures(count: number) {
  const closed: number[] = [];
  const sample = (i: number) =>
    ({ timestamp: i / 10, close: () => closed.push(i) }) as unknown as VideoSample;
  const asked: number[] = [];
  const sink = {
    async *samples(from: number) {
      asked.push(from);
      for (let i = Math.round(from * 10); i < count; i++) yield await Promise.resolve(sample(i));
    },
  } as unknown as VideoSampleSink;
  return { closed, asked, sink: Promise.resolve(sink) };
}

const settled = () => new Promise((resolve) => setTimeout(resolve));

test('the newest picture that is due is taken, and those before it are closed', async () => {
  const { sink, closed, asked } = pictures(30);
  const stream = new PictureStream(sink, 0.5, () => undefined);
  expect(stream.isDue(1)).toBe(false);
  await stream.ready;
  await settled();
  expect(asked).toEqual([0.5]);
  expect(stream.take(0.4)).toBeNull();
  expect(stream.take(0.72)?.timestamp).toBe(0.7);
  expect(closed).toEqual([5, 6]);
  expect(stream.take(0.75)).toBeNull();
  // It decodes on as pictures are taken, and no further ahead than that.
  await settled();
  expect(stream.take(100)?.timestamp).toBe(1.5);
  stream.leave();
  await settled();
  expect(stream.isEmpty).toBe(true);
  expect(stream.ended).toBe(false);
});

test('it ends behind its last picture, and what cannot be read is told unless it was left', async () => {
  const { sink } = pictures(3);
  const stream = new PictureStream(sink, 0, () => undefined);
  await settled();
  expect(stream.take(1)?.timestamp).toBe(0.2);
  expect(stream.ended).toBe(true);

  const faults: unknown[] = [];
  const broken = new PictureStream(Promise.reject(new Error('gone')), 0, (error) => faults.push(error));
  await broken.ready;
  expect(faults).toHaveLength(1);
  const left = new PictureStream(Promise.reject(new Error('gone')), 0, (error) => faults.push(error));
  left.leave();
  await left.ready;
  expect(faults).toHaveLength(1);
});
