import { PROJECT_EXTENSION } from '../../formats/project/projectMedia';

export const isProjectFile = (file: File): boolean => file.name.toLowerCase().endsWith(PROJECT_EXTENSION);
