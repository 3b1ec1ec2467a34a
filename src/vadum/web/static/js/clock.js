// The program's time on this page: the server's clock, also when the tablet's is wrong, or frozen.
const body = document.body;
// A page that the browser kept is as old as its opening: then the tablet's clock, put right by what was last known of it.
const kept = document.documentElement.hasAttribute("data-kept");
const offset = kept ? Number(localStorage.getItem("vadum-clock") || 0) : Number(body.dataset.now) - Date.now();
if (!kept) localStorage.setItem("vadum-clock", String(offset));
export const frozen = body.hasAttribute("data-frozen");
export const now = () => (frozen ? Number(body.dataset.now) : Date.now() + offset);
export const zone = Number(body.dataset.zone);

const two = (n) => String(n).padStart(2, "0");
const local = (ms) => new Date(ms + zone * 60000);

export function hms(ms) {
  const d = local(ms);
  return `${two(d.getUTCHours())}:${two(d.getUTCMinutes())}:${two(d.getUTCSeconds())}`;
}

export function iso(ms, exact = false) {
  const d = local(ms);
  const sign = zone < 0 ? "-" : "+";
  const away = Math.abs(zone);
  const day = `${d.getUTCFullYear()}-${two(d.getUTCMonth() + 1)}-${two(d.getUTCDate())}`;
  const part = exact ? `.${String(Math.floor(ms) % 1000).padStart(3, "0")}` : "";
  return `${day}T${hms(ms)}${part}${sign}${two(Math.floor(away / 60))}:${two(away % 60)}`;
}

// "14:05" is today's, or yesterday's when it would lie ahead; anything else is left to the server.
export function moment(typed) {
  const match = /^(\d{1,2})[:.](\d{2})$/.exec(typed.trim());
  if (!typed.trim()) return iso(now());
  if (!match) return typed;
  const d = local(now());
  let at = Date.UTC(d.getUTCFullYear(), d.getUTCMonth(), d.getUTCDate(), +match[1], +match[2]) - zone * 60000;
  if (at > now() + 60000) at -= 86400000;
  return iso(at);
}

export function countdown(ms) {
  const s = Math.max(0, Math.round(ms / 1000));
  const h = Math.floor(s / 3600);
  const rest = `${two(Math.floor((s % 3600) / 60))}:${two(s % 60)}`;
  return h ? `${h}:${rest}` : `${Math.floor(s / 60)}:${two(s % 60)}`;
}
