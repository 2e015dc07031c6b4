export function watchBeds(hut) {
  const socket = new WebSocket('wss://live.cumbrera.example/beds');
  socket.addEventListener('open', () => socket.send(JSON.stringify({ watch: hut })));
  return socket;
}
export function watchWeather() {
  return new EventSource('https://live.cumbrera.example/weather');
}
