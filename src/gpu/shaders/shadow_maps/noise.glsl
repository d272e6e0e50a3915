/// Evenly spread over [0, 1), neighbours far apart (J. Jimenez, Next Generation Post Processing, 2014: interleaved gradient noise).
float evenNoise(vec2 pixel) { return fract(52.9829189 * fract(dot(floor(pixel), vec2(0.06711056, 0.00583715)))); }
