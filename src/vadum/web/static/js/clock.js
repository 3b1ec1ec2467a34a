// The program's time on this page: the server's clock, also when the tablet's is wrong, or frozen.
const body = document.body;
// A page that the browser kept is as old as its opening: then the tablet's clock, put right by what was last known of it.
const kept = document.documentElement.hasAttribute("data-kept");
const offset = kept ? Number(localStorage.getItem("vadum-clock") || 0) : Number(body.dataset.now) - Date.now();
if (!kept) localStorage.setItem("vadum-clock", String(offset));
export const frozen = body.hasAttribute("data-frozen");
export const now = () => (frozen ? Number(body.dataset.now) : Date.now() + offset);
const zoneName = body.dataset.zoneName;
const faces =
  zoneName &&
  new Intl.DateTimeFormat("en-GB", {
    timeZone: zoneName,
    hourCycle: "h23",
    year: "numeric",
    month: "2-digit",
    day: "2-digit",
    hour: "2-digit",
    minute: "2-digit",
    second: "2-digit",
  });

// Minutes that the laboratory's clocks were ahead of UTC at that moment: by its zone's rules, not by today's offset.
export function zoneAt(ms) {
  if (!faces) return Number(body.dataset.zone);
  const p = Object.fromEntries(faces.formatToParts(ms).map(({ type, value }) => [type, Number(value)]));
  const face = Date.UTC(p.year, p.month - 1, p.day, p.hour, p.minute, p.second);
  return Math.round((face - Math.floor(ms / 1000) * 1000) / 60000);
}

const two = (n) => String(n).padStart(2, "0");
const local = (ms) => new Date(ms + zoneAt(ms) * 60000);
const dayOf = (d) => `${d.getUTCFullYear()}-${two(d.getUTCMonth() + 1)}-${two(d.getUTCDate())}`;

export function hms(ms) {
  const d = local(ms);
  return `${two(d.getUTCHours())}:${two(d.getUTCMinutes())}:${two(d.getUTCSeconds())}`;
}

export function iso(ms, exact = false) {
  const zone = zoneAt(ms);
  const away = Math.abs(zone);
  const part = exact ? `.${String(Math.floor(ms) % 1000).padStart(3, "0")}` : "";
  return `${dayOf(local(ms))}T${hms(ms)}${part}${zone < 0 ? "-" : "+"}${two(Math.floor(away / 60))}:${two(away % 60)}`;
}

// "14:05" is today's, or yesterday's when it would lie ahead. It is sent as it was read off the clock: which offset the
// clocks had then, and whether that time came twice, the program knows. Anything else is left to it.
export function moment(typed) {
  const match = /^(\d{1,2})[:.](\d{2})(?::(\d{2}))?([+-]\d{2}:\d{2})?$/.exec(typed.trim());
  if (!typed.trim()) return iso(now());
  if (!match) return typed;
  const here = local(now());
  const face = Date.UTC(
    here.getUTCFullYear(),
    here.getUTCMonth(),
    here.getUTCDate(),
    +match[1],
    +match[2],
    +(match[3] || 0),
  );
  const day = face > here.getTime() + 60000 ? new Date(face - 86400000) : new Date(face);
  return `${dayOf(day)}T${two(+match[1])}:${match[2]}:${match[3] || "00"}${match[4] || ""}`;
}

export function countdown(ms) {
  const s = Math.max(0, Math.round(ms / 1000));
  const h = Math.floor(s / 3600);
  const rest = `${two(Math.floor((s % 3600) / 60))}:${two(s % 60)}`;
  return h ? `${h}:${rest}` : `${Math.floor(s / 60)}:${two(s % 60)}`;
}
