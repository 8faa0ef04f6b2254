export const AXES = ["x", "y", "z"] as const;

export type Axis = (typeof AXES)[number];

/** To choose one from. */
export const AXIS_CHOICES = AXES.map((axis): [Axis, string] => [axis, axis]);
