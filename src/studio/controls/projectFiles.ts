import { PROJECT_EXTENSION } from '../../formats/projectMedia';

export const isProjectFile = (file: File): boolean => file.name.toLowerCase().endsWith(PROJECT_EXTENSION);
