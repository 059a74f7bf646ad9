/** A stretch of the track that is played. */
export interface Stretch {
  /** Seconds of the track at which it begins, and how long it is; beyond the track's end it is silent. */
  readonly from: number;
  readonly seconds: number;
  /** Where in it to begin. */
  readonly offset: number;
  readonly loops: boolean;
}

/** A clock that a sound card keeps, in seconds, and when on it the first frame is due. */
export interface SoundClock {
  readonly now: () => number;
  readonly began: number;
}

/** Until a sound that was ordered is heard for certain, in seconds. */
const AHEAD = 0.06;
/** How long a sound card is waited for, in milliseconds. */
const PATIENCE = 400;

/** The shot's sound track. While it plays, its clock leads and the pictures follow. */
export class SoundTrack {
  state: 'none' | 'reading' | 'ready' | 'failed' = $state('none');
  /** Why it cannot be played; empty when it can. */
  problem: string = $state('');
  isMuted: boolean = $state(false);

  private context: AudioContext | null = null;
  private track: AudioBuffer | null = null;
  private source: AudioBufferSourceNode | null = null;
  private volume: GainNode | null = null;
  /** Counts the times that it was stopped: what was begun before one is begun no more. */
  private turn = 0;

  /** Fetches and decodes the track. */
  async load(address: string, signal: AbortSignal): Promise<void> {
    this.state = 'reading';
    try {
      const response = await fetch(address, { signal });
      if (!response.ok) throw new Error(((await response.json().catch(() => ({}))) as { message?: string }).message ?? 'The server refused the sound.');
      const bytes = await response.arrayBuffer();
      this.context ??= new AudioContext();
      const track = await this.context.decodeAudioData(bytes);
      if (signal.aborted) return;
      this.track = track;
      this.state = 'ready';
      this.problem = '';
    } catch (thrown) {
      if (signal.aborted) return;
      this.state = 'failed';
      this.problem = thrown instanceof Error ? thrown.message : String(thrown);
    }
  }

  /** Begins to play a stretch. Null where there is no track, no sound card that keeps time, or it was stopped meanwhile. */
  async start({ from, seconds, offset, loops }: Stretch): Promise<SoundClock | null> {
    this.stop();
    const { context, track } = this;
    if (!context || !track || seconds <= 0) return null;
    const turn = this.turn;
    // A page may make sounds only once somebody has pressed something: the card begins to run now.
    if (context.state !== 'running') await Promise.race([context.resume(), new Promise((resolve) => setTimeout(resolve, PATIENCE))]);
    if (context.state !== 'running' || turn !== this.turn) return null;
    // A buffer of exactly the stretch's length: too short a track ends in silence, too long a one is cut, and loops meet.
    const length = Math.max(1, Math.round(seconds * track.sampleRate));
    const buffer = context.createBuffer(track.numberOfChannels, length, track.sampleRate);
    const first = Math.round(from * track.sampleRate);
    for (let channel = 0; channel < track.numberOfChannels; channel++)
      buffer.copyToChannel(track.getChannelData(channel).subarray(first, first + length), channel);
    this.volume = context.createGain();
    this.volume.gain.value = this.isMuted ? 0 : 1;
    this.volume.connect(context.destination);
    this.source = context.createBufferSource();
    this.source.buffer = buffer;
    this.source.loop = loops;
    this.source.connect(this.volume);
    const began = context.currentTime + AHEAD;
    this.source.start(began, offset);
    // What is heard now left the card so long ago.
    const latency = () => context.outputLatency || context.baseLatency || 0;
    return { now: () => context.currentTime - latency(), began };
  }

  stop(): void {
    this.turn++;
    this.source?.stop();
    this.source?.disconnect();
    this.volume?.disconnect();
    this.source = null;
  }

  toggleMute(): void {
    this.isMuted = !this.isMuted;
    if (this.volume) this.volume.gain.value = this.isMuted ? 0 : 1;
  }

  close(): void {
    this.stop();
    void this.context?.close();
    this.context = null;
    this.track = null;
    this.state = 'none';
  }
}
