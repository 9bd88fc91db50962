/**
 * What GLSL brings along, in GLSL: the functions that lanes have no instruction for. Errors are those of single floats
 * but for `sin` and `cos` of large angles. Series: M. Abramowitz, I. A. Stegun, Handbook of Mathematical Functions, 1964,
 * 4.1.27 (ln), 4.2.1 (exp), 4.3.65 (sin). The transfer of IEC 61966-2-1 by polynomials, fitted to within 0.01 of an eighth
 * bit's step each way.
 */
export const LIBRARY = `
float exp2(float x) {
  float y = clamp(x, -126.0, 127.0);
  float whole = floor(y + 0.5);
  float f = y - whole;
  float e = 1.0 + f * (0.6931471806 + f * (0.2402265070 + f * (0.0555041087 + f * (0.0096181291 + f * (0.0013333558 + f * 0.0001540353)))));
  return e * intBitsToFloat((int(whole) + 127) << 23);
}
float log2(float x) {
  int bits = floatBitsToInt(x);
  float e = float(((bits >> 23) & 255) - 127);
  float m = intBitsToFloat((bits & 8388607) | 1065353216);
  float big = m > 1.4142135 ? 1.0 : 0.0;
  m = m * (1.0 - 0.5 * big);
  float t = (m - 1.0) / (m + 1.0);
  float s = t * t;
  return e + big + 2.885390082 * t * (1.0 + s * (0.3333333333 + s * (0.2 + s * (0.1428571429 + s * 0.1111111111))));
}
float exp(float x) { return exp2(x * 1.442695041); }
float log(float x) { return log2(x) * 0.6931471806; }
float pow(float x, float y) { return x <= 0.0 ? 0.0 : exp2(y * log2(x)); }
float sin(float x) {
  float turns = floor(x * 0.15915494309 + 0.5);
  float r = x - turns * 6.28125 - turns * 0.0019353071795864769;
  float a = abs(r);
  r = a > 1.5707963268 ? (r < 0.0 ? a - 3.1415926536 : 3.1415926536 - a) : r;
  float s = r * r;
  return r * (1.0 + s * (-0.1666666667 + s * (0.0083333333 + s * (-0.0001984127 + s * (0.0000027557 - s * 0.0000000250)))));
}
float cos(float x) { return sin(x + 1.5707963268); }
float smoothstep(float a, float b, float x) { float t = clamp((x - a) / (b - a), 0.0, 1.0); return t * t * (3.0 - 2.0 * t); }
float toLinear(float v) {
  float c = min(v, 1.0);
  float high = ((((0.059778 * c - 0.24116084) * c + 0.61137276) * c + 0.53886851) * c + 0.03015191) * c + 0.00101071;
  float light = v <= 0.04045 ? v * 0.0773993808 : high;
  if (v > 1.0) light = pow((v + 0.055) * 0.9478672986, 2.4);
  return light;
}
float fromLinear(float v) {
  float c = clamp(v, 0.0, 1.0);
  float a = sqrt(c);
  float b = sqrt(a);
  float high = 1.12265895 * a + 0.19614619 * b + 0.08132408 * c - 0.06461312 - 0.3354816 * a * b;
  float shown = v <= 0.0031308 ? max(v, 0.0) * 12.92 : high;
  if (v > 1.0) shown = 1.055 * pow(v, 0.4166666667) - 0.055;
  return shown;
}
`;
/** Functions of {@link LIBRARY} that stand in place of those that shaders bring along. */
export const OURS = ['toLinear', 'fromLinear'];
