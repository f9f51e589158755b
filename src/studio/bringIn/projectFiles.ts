import { PROJECT_EXTENSION } from '../../formats/project/projectMedia';

/** A network of somebody's own. */
export const isNetworkFile = (file: File): boolean => file.name.toLowerCase().endsWith('.onnx');

export const isProjectFile = (file: File): boolean => file.name.toLowerCase().endsWith(PROJECT_EXTENSION);
