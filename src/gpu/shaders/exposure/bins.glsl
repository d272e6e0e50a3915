// Bins of the meter's histogram: 64 a stop, from the least luminance that a meter tells on.
const float leastLuminance = 1e-4; // cd/m2
const int meterBinCount = 2816;    // 44 stops: up to 1e9 cd/m2
#ifdef HISTOGRAM
layout(std430) buffer MeterBinBuffer { uint meterBins[]; };
#endif
const float binsOfLog = 64.0 / 0.69314718; // of ln
int binOf(float logOf) { return clamp(int((logOf - log(leastLuminance)) * binsOfLog), 0, meterBinCount - 1); }
float logOfBin(int bin) { return log(leastLuminance) + (float(bin) + 0.5) / binsOfLog; }
