// Beams and what goes from vertex to fragment of them. C++ side: gpu/passes/beams.cpp.
struct BeamData {
    vec4 tip;       // metres; w: length, or a halo's radius
    vec4 axis;      // unit; w: tangent of the outer angle; 0 a halo
    vec4 intensity; // cd; w: strength, 1/m
    vec4 falloff;   // exponents along and across
};
layout(std430) readonly buffer BeamBuffer { BeamData beams[]; };
