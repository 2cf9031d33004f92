#!/usr/bin/env bash
# Makes the recordings with stops that ship with the demo, content/recordings/*.webm and their captions *.vtt, with Debian's
# espeak-ng, librsvg2-bin and ffmpeg. They ship with the application; this is only needed to change them.
set -euo pipefail
cd "$(dirname "$0")/.."
out=content/recordings
work=$(mktemp -d)
trap 'rm -rf "$work"' EXIT
mkdir -p "$out"
python3 - "$work" <<'PY'
import math, subprocess, sys, os, wave
work = sys.argv[1]

def speak(name, lines, voice, speed, pause=0.9):
    """Says lines one after the other; gives when each begins and ends."""
    cues, at, pieces = [], 0.6, []
    rate = 22050
    silence = lambda s: b"\0\0" * int(rate * s)
    pieces.append(silence(at))
    for n, line in enumerate(lines):
        file = f"{work}/{name}-{n}.wav"
        subprocess.run(["espeak-ng", "-v", voice, "-s", str(speed), "-w", file, line], check=True)
        with wave.open(file) as w:
            assert w.getframerate() == rate
            frames = w.readframes(w.getnframes())
        seconds = len(frames) / 2 / rate
        cues.append((at, at + seconds, line))
        pieces += [frames, silence(pause)]
        at += seconds + pause
    with wave.open(f"{work}/{name}.wav", "wb") as w:
        w.setnchannels(1); w.setsampwidth(2); w.setframerate(rate)
        w.writeframes(b"".join(pieces))
    return cues, at

def vtt(name, cues):
    clock = lambda s: f"{int(s // 60):02d}:{s % 60:06.3f}"
    with open(f"content/recordings/{name}.vtt", "w") as f:
        f.write("WEBVTT\n")
        for start, end, text in cues:
            f.write(f"\n{clock(start)} --> {clock(end)}\n{text}\n")

climb = [
    "Nobody climbs while the rotor turns. Today you see how it is brought to a stop.",
    "First the control room is told. Only then the stop button is pressed, at the foot of the tower.",
    "The blades pitch out of the wind. It takes about half a minute until they hardly move.",
    "Now the rotor is locked with the bolt, and each of you hangs a lock and a tag of your own on it.",
    "Test that nothing moves and no voltage is left. Only then is it safe to climb.",
    "If somebody joins you later, they hang their own lock, too. Nobody takes off the lock of another.",
]
cues, length = speak("climb", climb, "en-gb", 150)
vtt("before-the-climb", cues)
FPS = 8
INK, MOSS, OCHRE, PAPER, SKY = "#1c2523", "#2f6b4a", "#8a5a00", "#fbf9f3", "#2b5c7e"
def blade(angle, pitch):
    x, y = 320 + 105 * math.cos(angle), 130 + 105 * math.sin(angle)
    width = 4 + 8 * pitch
    return f'<line x1="320" y1="130" x2="{x:.1f}" y2="{y:.1f}" stroke="{INK}" stroke-width="{width:.1f}" stroke-linecap="round"/>'
angle, turn = 0.3, 1.6
frames = int(length * FPS)
for n in range(frames):
    t = n / FPS
    scene = sum(1 for start, _, _ in cues if t >= start) - 1
    if scene == 2:
        turn = max(0.05, turn * 0.975)
    if scene >= 3:
        turn = 0.0
    angle += turn / FPS
    pitch = 1.0 if scene < 2 else max(0.1, turn / 1.6)
    parts = [f'<svg xmlns="http://www.w3.org/2000/svg" viewBox="0 0 640 360" width="640" height="360" font-family="DejaVu Sans, sans-serif">',
             f'<rect width="640" height="360" fill="{PAPER}"/>',
             f'<line x1="0" y1="330" x2="640" y2="330" stroke="{INK}" stroke-width="3"/>',
             f'<path d="M312 330 L316 140 L324 140 L328 330 Z" fill="none" stroke="{INK}" stroke-width="3"/>']
    parts += [blade(angle + k * 2 * math.pi / 3, pitch) for k in range(3)]
    parts.append(f'<circle cx="320" cy="130" r="9" fill="{INK}"/>')
    said = ["", "1  Tell", "2  Switch off", "3  Lock and tag", "4  Test", "Everyone: a lock of one's own"]
    for k, word in enumerate(said[1:max(scene, 0) + 1]):
        parts.append(f'<text x="24" y="{60 + 34 * k}" font-size="22" fill="{MOSS if k < scene - 1 else OCHRE}">{word}</text>')
    if scene >= 3:
        for k in range(2 if scene < 5 else 3):
            x = 352 + 34 * k
            parts.append(f'<rect x="{x}" y="284" width="22" height="18" fill="{SKY}"/><path d="M{x+5} 284 v-8 a6 6 0 0 1 12 0 v8" fill="none" stroke="{SKY}" stroke-width="3"/>')
    speed = f"{turn * 60 / (2 * math.pi):.0f} rpm"
    parts.append(f'<text x="616" y="60" font-size="22" text-anchor="end" fill="{INK}">{speed}</text></svg>')
    svg = f"{work}/f{n:05d}.svg"
    open(svg, "w").write("".join(parts))
    subprocess.run(["rsvg-convert", "-o", f"{work}/f{n:05d}.png", svg], check=True)

shift = [
    "Handover from the early shift. Turbine nine stands still; the lock is Inka's.",
    "Three people worked four hours on the gearbox. Twelve person-hours are booked.",
    "Sixteen more are needed. With four of you that is four hours, if the wind stays low.",
    "The boat comes at half past four. Begin at noon, and you have half an hour in reserve.",
    "Oil pressure was three point one bar at ten, and two point eight at eleven. Watch it.",
]
cues, _ = speak("shift", shift, "en-gb-scotland", 150)
vtt("early-shift", cues)
PY
ffmpeg -v error -y -framerate 8 -i "$work/f%05d.png" -i "$work/climb.wav" -c:v libvpx-vp9 -b:v 90k -g 16 -row-mt 1 -cpu-used 5 -pix_fmt yuv420p \
  -c:a libopus -b:a 24k "$out/before-the-climb.webm"
ffmpeg -v error -y -i "$work/shift.wav" -vn -c:a libopus -b:a 24k "$out/early-shift.webm"
for file in "$out"/*.webm; do echo "$file $(stat -c %s "$file") bytes, $(ffprobe -v error -show_entries format=duration -of csv=p=0 "$file") s"; done
