// The depth of what is endlessly far.
uniform float far = 0.0;

void main() { gl_FragDepth = far; }
