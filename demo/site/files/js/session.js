// The walker's session: a token that runs out, renewed when a call is refused.
const API = 'https://api.cumbrera.example';
let token;

export async function openSession(stale = false) {
  const answer = await fetch(`${API}/session${stale ? '?stale=1' : ''}`, { method: 'POST', credentials: 'include' });
  ({ token } = await answer.json());
}

export async function renew() {
  const answer = await fetch(`${API}/session/renew`, { method: 'POST', credentials: 'include' });
  ({ token } = await answer.json());
}

export const bearer = () => ({ authorization: `Bearer ${token}` });
