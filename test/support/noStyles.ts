/** Stands in for style sheets, which the tests' browser does not draw. */
export {};
