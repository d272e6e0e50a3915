struct Ordered { // a light by its limit, weakest first
    uint light;
    float most; // 0: none
    float pad0, pad1;
    vec4 box;   // that it covers, pixels
};
layout(std430) readonly buffer FlatOrderBuffer {
    int orderCount;
    int orderPad0, orderPad1, orderPad2;
    Ordered order[];
};
