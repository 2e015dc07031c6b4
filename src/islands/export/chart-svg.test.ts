import { describe, expect, it } from 'vitest';
import { analyse, takeFacts } from '#core/analysis';
import { type JsonObject, normaliseEntry } from '#core/har';
import { arrange } from '../waterfall/arrange';
import { layOut } from '../waterfall/layout';
import { drawChart, MOST_ROWS } from './chart-svg';
import { fileName } from './save-file';

const draw = (urls: readonly string[], isGrouped = false) => {
  const { rows } = analyse(
    urls.map((url, place) =>
      takeFacts(
        normaliseEntry(
          {
            startedDateTime: new Date(Date.UTC(2026, 9, 3) + place).toISOString(),
            request: { url },
            response: { status: 200 },
            timings: { wait: 100, receive: 50 },
          } as unknown as JsonObject,
          place,
        ),
      ),
    ),
    [],
    { type: 'whole' },
  );
  const { placed } = arrange(rows, [], undefined);
  return drawChart({
    title: 'a & <b>',
    subtitle: 'all',
    rows: layOut(placed, { order: 'start', lanes: undefined, isGrouped, turned: [] }),
    milestones: [{ id: 'loaded', label: 'loaded', atMs: 120 }],
    scale: { fromMs: 0, toMs: 200, widthPx: 900 },
    measure: 'time',
    colours: {
      paper: '#fff',
      ink: '#000',
      soft: '#555',
      grid: '#eee',
      outcome: { plain: 'navy', cached: 'green', redirect: 'ochre', failed: 'crimson' },
    },
  });
};

describe('the chart as a picture', () => {
  it('keeps markup and what XML forbids out of its texts', () => {
    const { svg } = draw(['https://a.example/"><script>x</script>', 'https://a.example/\u0000\ud800&amp;']);
    expect(svg).not.toContain('<script');
    expect(svg).toContain('a &amp; &lt;b&gt;');
    // biome-ignore lint/suspicious/noControlCharactersInRegex: these are what must not be there.
    expect(svg).not.toMatch(/[\u0000-\u0008\ud800-\udfff]/);
  });

  it('has a row for each strip or folded lane, the milestone, and the steps of the stairs', () => {
    const { svg } = draw(['https://a.example/x?1', 'https://a.example/x?2', 'https://a.example/y'], true);
    expect(svg).toContain('GET a.example/x (2)');
    expect(svg).toContain('>loaded</text>');
    expect(svg.match(/fill="navy" fill-opacity="(0.42|1)"/g)).toHaveLength(2);
  });

  it('says how many rows it left out', () => {
    const { svg, heightPx } = draw(Array.from({ length: MOST_ROWS + 7 }, (_, at) => `https://a.example/${at}`));
    expect(svg).toContain('7 more rows are not drawn.');
    expect(heightPx).toBeLessThan(MOST_ROWS * 25);
  });
});

it('names a file by what any file system takes', () => {
  expect(fileName('a/b: "c"?\n', 'svg')).toBe('a b c.svg');
  expect(fileName('///', 'csv')).toBe('capture.csv');
});
