/** A drawing as a picture that styles can name. */
export const svgImage = (svg: string): string => `url("data:image/svg+xml,${encodeURIComponent(svg)}")`;
