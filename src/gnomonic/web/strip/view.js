// What of a line is in view: stations across, heights up. Numbers only; the strip holds one and the lanes draw by it.
import { groundBetween, reachAt } from "./profile.js";

const MOST_EXAGGERATED = 24;
const FENCE_SHARE = 0.36; // of the lane that a fence may fill where heights are exaggerated
const LEAST_FENCE = 44; // pixels of it, in a low lane
const SHORTEST_M = 2.5;
const ROOM = 34; // above for names, below for the feet

export class View {
  constructor(data, { width, left, right = 14, window, exaggerate = true, built = true }) {
    Object.assign(this, { data, width, left, right, window, exaggerate, built });
  }

  get wide() {
    return Math.max(40, this.width - this.left - this.right);
  }

  get perMetre() {
    return this.wide / (this.window[1] - this.window[0]);
  }

  x(station) {
    const [from, to] = this.window;
    return this.left + ((station - from) / (to - from)) * this.wide;
  }

  station(x) {
    const [from, to] = this.window;
    return Math.min(Math.max(from + ((x - this.left) / this.wide) * (to - from), 0), this.data.length);
  }

  seen(a, b) {
    return b >= this.window[0] && a <= this.window[1];
  }

  // Heights for a lane so many pixels high, about ``middle`` (a height in metres) where one is wanted and not all fits.
  stand(high, middle = null) {
    const { data } = this;
    const zs = groundBetween(data.ground, ...this.window).map((p) => p[1]);
    const fence = this.tall();
    const [low, peak] = [Math.min(...zs) - fence.deep, Math.max(...zs) + fence.top];
    const across = this.perMetre;
    const room = (high - ROOM) / (peak - low);
    const shown = this.built ? Math.max(FENCE_SHARE * high, LEAST_FENCE) / (fence.top + fence.deep) : room;
    this.up = this.exaggerate ? Math.max(across, Math.min(room, shown, MOST_EXAGGERATED * across)) : across;
    this.times = this.up / across;
    this.high = high;
    this.fits = this.up <= room * (1 + 1e-9);
    const half = (high - ROOM) / 2 / this.up;
    this.middle = this.fits ? (low + peak) / 2 : Math.min(Math.max(middle ?? (low + peak) / 2, low + half), peak - half);
    return this;
  }

  // Deepest foot and highest head of the line's posts.
  tall() {
    const { posts, fabric, decisions } = this.data;
    return { deep: Math.max(0.6, ...posts.map((p) => p.depth)), top: Math.max(decisions.clearance_m + fabric.top, ...posts.map((p) => p.above)) };
  }

  y(z) {
    return this.high / 2 + 6 - (z - this.middle) * this.up;
  }

  // The height that must be in the middle so that the bay at a station, or else its nearer post, is seen; as it is where it is.
  follow(station) {
    if (this.fits) return this.middle;
    const half = (this.high - ROOM) / 2 / this.up;
    for (const whole of [true, false]) {
      const [low, high] = reachAt(this.data, station, whole);
      const [least, most] = [high - half, low + half]; // the middle that has the head, and the foot, at the lane's edge
      if (least <= most) return Math.min(Math.max(this.middle, least), most);
      if (!whole) return (low + high) / 2;
    }
    return this.middle;
  }

  // The shortest stretch that may be shown: at true scale a post is not taller than the lane.
  shortest(high) {
    const { top, deep } = this.tall();
    return Math.min(this.data.length, Math.max(SHORTEST_M, (this.wide * (top + deep)) / Math.max(60, high - ROOM)));
  }

  // How long a stretch is shown where heights are to scale and what is under the wire can be read.
  readable(high) {
    const { top, deep } = this.tall();
    return Math.min(this.data.length, Math.max(this.shortest(high), (this.wide * (top + deep)) / (FENCE_SHARE * high)));
  }

  get note() {
    return this.times > 1.05 ? `heights ×${this.times.toFixed(this.times < 9.95 ? 1 : 0)}` : "heights to scale";
  }
}
