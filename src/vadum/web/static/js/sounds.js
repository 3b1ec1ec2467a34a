// Soft calls before a due time, another at it, and the metronome's tick; silent until switched on.
const KEY = "vadum-sound";
let context = null;
export const sounding = () => localStorage.getItem(KEY) === "on";

export function switchSound() {
  localStorage.setItem(KEY, sounding() ? "off" : "on");
  if (sounding()) play("soft");
  return sounding();
}

const TONES = {
  soft: [[523, 0, 0.25]],
  due: [
    [784, 0, 0.2],
    [784, 0.28, 0.2],
    [1047, 0.56, 0.4],
  ],
  alarm: [
    [988, 0, 0.3],
    [659, 0.34, 0.3],
    [988, 0.68, 0.3],
    [659, 1.02, 0.5],
  ],
  tick: [[1200, 0, 0.03]],
  tock: [[900, 0, 0.03]],
};

export function play(name) {
  if (!sounding()) return;
  context = context || new AudioContext();
  if (context.state === "suspended") context.resume();
  for (const [pitch, after, length] of TONES[name]) {
    const tone = context.createOscillator();
    const gain = context.createGain();
    const at = context.currentTime + after;
    tone.frequency.value = pitch;
    gain.gain.setValueAtTime(0, at);
    gain.gain.linearRampToValueAtTime(0.25, at + 0.01);
    gain.gain.exponentialRampToValueAtTime(0.001, at + length);
    tone.connect(gain).connect(context.destination);
    tone.start(at);
    tone.stop(at + length + 0.05);
  }
}

// What is due, spoken by a voice of this browser's own: off until a person asks for it, silent where there is none.
export const speaking = () => localStorage.getItem("vadum-voice") === "on" && "speechSynthesis" in window;

export function speak(words) {
  if (!words || !speaking()) return;
  const voice = speechSynthesis.getVoices().find((one) => one.lang.startsWith("en") && one.localService);
  if (!voice) return;
  speechSynthesis.cancel(); // the newest call is the one that counts
  const said = new SpeechSynthesisUtterance(words.replace(/\s+/g, " ").trim());
  said.voice = voice;
  said.lang = voice.lang;
  speechSynthesis.speak(said);
}
