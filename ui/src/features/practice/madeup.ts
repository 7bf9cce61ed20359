/** Made-up people for the tests of this folder. */
export const person = (id: string, name: string, role: string, more: object = {}) => ({
  id,
  name,
  role,
  since: "2026-01-01T00:00:00Z",
  runners: 0,
  ...more,
});
export const me = (role: string) => ({
  id: "o",
  practiceId: "p",
  name: "Ora",
  email: "",
  role,
  practice: "P",
  today: "2026-05-04",
  zone: "UTC",
});

export const mine = (more: object = {}) => ({
  name: "Ora",
  email: "ora@example.test",
  units: "",
  devices: [],
  second: false,
  codes: 0,
  keys: [],
  ...more,
});
