/** The 3D view's own script, the largest of all; whoever knows that a bench comes next asks for it early. */
export const loadStage = () => import("./ModelStage");
