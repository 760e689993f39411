import type { MarkerColour } from '../../api/types';

export const MARKER_COLOURS: readonly MarkerColour[] = ['brass', 'moss', 'plum', 'slate'];

/** Dark enough to be told on paper, light enough on black. */
const HUES: Record<MarkerColour, string> = {
  brass: '#c4932f',
  moss: '#6f9a4d',
  plum: '#a7689c',
  slate: '#6d8fa8',
};

export const markerHue = (colour: MarkerColour): string => HUES[colour];
