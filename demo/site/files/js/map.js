import { $, make } from './dom.js';
export function showMap() {
  for (let y = 0; y < 3; y++)
    for (let x = 0; x < 4; x++)
      $('#map').append(
        make('img', {
          src: `https://sky.topolines.example/tiles/12/${2040 + x}/${1360 + y}.png`,
          alt: '',
          width: 256,
          height: 256,
        }),
      );
}
