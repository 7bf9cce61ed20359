package input

// RunsBack is how far back runs, mornings and days are read and taken, in days.
const RunsBack = 400

// VisitsBack is how far back a screening may lie, in days: twenty years (house).
const VisitsBack = 20 * 366

// Limits of a bundle (house).
const (
	BundleMost   = 25 << 20 // bytes
	BundleRows   = 200_000
	BundleRow    = 256 << 10 // bytes of a row
	BundleTrack  = 4 << 20   // of a row of a track, packed
	trackMost    = 48 << 20  // bytes of a track, unpacked
	BundleTracks = 256 << 20 // of all tracks, unpacked
)
