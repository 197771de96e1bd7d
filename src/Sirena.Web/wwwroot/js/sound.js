// A quiet sound of two tones, and whether it is wanted on this device.
window.sirenaSound = (() => {
  let audio;
  const on = () => localStorage.getItem('sirena.sound') === 'on';
  const play = () => {
    audio ??= new AudioContext();
    audio.resume();
    [[660, 0], [880, .18]].forEach(([pitch, at]) => {
      const tone = audio.createOscillator(), loud = audio.createGain(), t = audio.currentTime + at;
      tone.frequency.value = pitch;
      loud.gain.setValueAtTime(0, t); loud.gain.linearRampToValueAtTime(.12, t + .02); loud.gain.exponentialRampToValueAtTime(.001, t + .4);
      tone.connect(loud).connect(audio.destination); tone.start(t); tone.stop(t + .42);
    });
    document.body.dataset.sounded = Number(document.body.dataset.sounded || 0) + 1;
  };
  const toggle = () => { localStorage.setItem('sirena.sound', on() ? 'off' : 'on'); if (on()) play(); };
  return { on, play, toggle };
})();
