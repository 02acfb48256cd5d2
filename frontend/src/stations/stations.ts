/** The stations, in the order of the work. */
export const STATIONS = [
  { id: "set", name: "Set" },
  { id: "form", name: "Form" },
  { id: "view", name: "View" },
  { id: "light", name: "Light" },
  { id: "surface", name: "Surface" },
  { id: "backdrop", name: "Backdrop" },
  { id: "finish", name: "Finish" },
  { id: "export", name: "Export" },
] as const;

export type Station = (typeof STATIONS)[number]["id"];
