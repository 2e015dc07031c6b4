const SEEN_AFTER_MS = 1300;

/** Watches beds and weather for as long as somebody looks at them. */
export function watchAWhile(hut) {
  const socket = new WebSocket('wss://live.cumbrera.example/beds');
  socket.addEventListener('open', () => socket.send(JSON.stringify({ watch: hut })));
  const weather = new EventSource('https://live.cumbrera.example/weather');
  setTimeout(() => {
    socket.close(1000, 'seen enough');
    weather.close();
    document.body.dataset.done = 'yes';
  }, SEEN_AFTER_MS);
}
