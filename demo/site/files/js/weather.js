import { $, make } from './dom.js';
export async function showWeather(place) {
  const answer = await fetch(`https://sky.topolines.example/weather/hourly?place=${place}`);
  const hours = await answer.json();
  $('#weather').append(make('p', {}, `${hours[0].degrees} degrees, wind ${hours[0].windKmh} km/h`));
}
