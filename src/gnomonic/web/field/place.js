// Where the phone is on the job's ground, and how good that is; asked once, when it is pressed.
const A = 6378137;
const E2 = 0.00669437999014;

// Metres east and north of a job's origin: along the meridian and the parallel between, good to decimetres over some kilometres.
export function onGround([lon0, lat0], lon, lat) {
  const middle = ((lat + lat0) / 2) * (Math.PI / 180);
  const w = 1 - E2 * Math.sin(middle) ** 2;
  const [meridian, parallel] = [(A * (1 - E2)) / w ** 1.5, (A / Math.sqrt(w)) * Math.cos(middle)];
  return [((lon - lon0) * Math.PI * parallel) / 180, ((lat - lat0) * Math.PI * meridian) / 180];
}

export const locate = () =>
  new Promise((done, failed) => {
    if (!navigator.geolocation) return failed(new Error("This phone says no place."));
    navigator.geolocation.getCurrentPosition(done, () => failed(new Error("The phone gives no place: look whether it may, under open sky.")), { enableHighAccuracy: true, timeout: 20_000, maximumAge: 5000 });
  });

// The post nearest to a place, and how far it is.
export function nearest(lines, east, north) {
  let found = null;
  for (const line of lines)
    for (const post of line.posts) {
      const far = Math.hypot(post.e - east, post.n - north);
      if (!found || far < found.far) found = { line, post, far };
    }
  return found;
}
