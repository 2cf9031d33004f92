#!/usr/bin/env bash
# Makes the recordings of the bank, content/sounds/*.mp3, with Debian's espeak-ng and sox (libsox-fmt-mp3). They ship with
# the application; this is only needed to change them. What is said here is what the questions' transcripts say.
set -euo pipefail
cd "$(dirname "$0")/.."
out=content/sounds
work=$(mktemp -d)
trap 'rm -rf "$work"' EXIT
mkdir -p "$out"

say() { # VOICE SPEED PITCH NAME WORDS
  espeak-ng -v "$1" -s "$2" -p "$3" -g 4 -w "$work/$4.raw.wav" "$5"
  sox -R -q "$work/$4.raw.wav" -r 22050 -c 1 "$work/$4.wav" gain -n -3
}
tone() { sox -R -q -n -r 22050 -c 1 "$work/$1.wav" synth "$2" "$3" "$4" fade t 0.02 "$2" 0.03 gain -8; } # NAME SECONDS SHAPE HERTZ
rest() { sox -R -q -n -r 22050 -c 1 "$work/$1.wav" trim 0 "$2"; }
# As it comes over a hand-held radio: a narrow band and a little noise.
radio() { # NAME PARTS...
  local name=$1; shift
  sox -q "${@/#/$work/}" "$work/$name.clean.wav"
  sox -R -q "$work/$name.clean.wav" "$work/$name.band.wav" highpass 400 lowpass 2800 overdrive 4 gain -n -5
  sox -R -q "$work/$name.band.wav" -p synth pinknoise gain -34 | sox -q -m "$work/$name.band.wav" - "$work/$name.wav"
}
keep() { sox -q "$work/$1.wav" -C 48.2 "$out/$1.mp3" gain -n -2; }

rest short 0.35; rest long 1.0; rest gap 0.25
tone key 0.12 sine 1150

# A call from the ground to the crane.
say en-gb 150 35 call1 "Crane two, this is ground. Load for the next lift: four point two tonnes, with the slings."
say en-gb 150 35 call2 "Radius is eighteen metres. I say again: one eight metres. Wind at the hook is nine metres per second."
say en-gb 150 35 call3 "Do not lift before the banksman has given you the sign. Over."
radio radio-call key.wav call1.wav short.wav call2.wav short.wav call3.wav key.wav
keep radio-call

# A handover at the end of a shift.
say en-gb-scotland 155 60 hand1 "Handover from the early shift. Turbine seven is stopped and locked off; the tag is Inka's."
say en-gb-scotland 155 60 hand2 "We have changed two of the five filters. The other three are in the container, top shelf."
say en-gb-scotland 155 60 hand3 "Oil pressure was three point one bar at noon and two point six bar at two o'clock. Watch that."
say en-gb-scotland 155 60 hand4 "The boat leaves at a quarter past five, not at five. That is all."
sox -q "$work/hand1.wav" "$work/long.wav" "$work/hand2.wav" "$work/long.wav" "$work/hand3.wav" "$work/long.wav" "$work/hand4.wav" "$work/handover.wav"
keep handover

# Horn signals, one after the other: two short; one long; three short; a long one and a short one.
tone blast 0.35 sawtooth 290; tone blow 1.5 sawtooth 290; rest signal 2.2
sox -q "$work/blast.wav" "$work/gap.wav" "$work/blast.wav" "$work/signal.wav" "$work/blow.wav" "$work/signal.wav" \
  "$work/blast.wav" "$work/gap.wav" "$work/blast.wav" "$work/gap.wav" "$work/blast.wav" "$work/signal.wav" \
  "$work/blow.wav" "$work/gap.wav" "$work/blast.wav" "$work/horn-signals.wav"
keep horn-signals

# A sensor that clicks once a turn: 14 clicks in 12 seconds, the first after 0.4 s.
sox -R -q -n -r 22050 -c 1 "$work/tick.raw.wav" synth 0.03 square 900 fade t 0 0.03 0.02 gain -6
sox -q "$work/tick.raw.wav" "$work/turn.wav" pad 0 0.827142857
sox -q -n -r 22050 -c 1 "$work/lead.wav" trim 0 0.4
turns=(); for _ in $(seq 14); do turns+=("$work/turn.wav"); done
sox -q "$work/lead.wav" "${turns[@]}" "$work/turns.long.wav"
sox -q "$work/turns.long.wav" "$work/clicks.wav" trim 0 12
keep clicks
ls -l "$out"
