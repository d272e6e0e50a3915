// One side of a pair: src/gpu/frame/gpu_structs.h holds the same structs in C++, and a test compares every offset.

struct FrameData {
    mat4 viewProjection;
    mat4 inverseViewProjection;
    vec4 eye;             // xyz metres
    vec4 forward;         // xyz unit view direction; w: near, metres
    vec4 time;            // x: scene seconds, y: frames since the reset, zw: jitter in pixels
    int width;            // pixels of the scene target
    int height;
    float depthNear;      // metres, range of the depth layer
    float depthFar;
};

bool receivesShadows = true; // of the surface that is lit
bool lightMapped = false;    // it takes light from a map: ambient light, and what straight light is in there
bool placed = false;         // it has a place in what was baked by texel
bool placeOnScreen = false;  // the screen's target tells which
vec2 placeHere = vec2(0.0);  // else: texels
float opennessHere = 1.0;    // how open it is, as its vertices have it
float bakedOpen = 1.0;       // how open it is, as it was baked
const int inLightMap = 4;    // LightData::type of a light whose straight light is in the map

/// Light from a map.
struct BakedLight {
    vec3 light;     // on the surface as its vertices face, lux
    vec3 toward[3]; // by channel: the direction that it comes from on the mean, times how alike those are
};
const BakedLight noBakedLight = BakedLight(vec3(0.0), vec3[3](vec3(0.0), vec3(0.0), vec3(0.0)));

struct LightData {
    vec3 position;        // metres
    float range;          // metres, 0 = no window
    vec3 direction;       // unit, the way it travels
    float reach;          // metres, nothing beyond; 0 = no cut
    vec3 intensity;       // cd or lx per channel, Rec. 709
    int type;             // 0 directional, 1 point, 2 spot; inLightMap added to it; from bit 8 its channel in baked masks, from 1; 0: none
    float cosInner;
    float cosOuter;
    float diffuseShare;   // 0 to 1, of what each lobe gives
    float specularShare;
};

struct DrawData {
    uint material;
    uint lightOffset;
    uint lightCount;
    uint object;          // number in the scene
    uint unshadowed;      // 1 where no shadow falls
};

struct MaterialData {
    vec4 baseColor;
    vec3 emissive;        // cd/m2
    float alphaCutoff;
    float metallic;
    float roughness;
    float normalScale;
    float occlusionStrength;
    uint flags;           // 1: alpha mask, 2: unlit; textures it has: 4 normal, 8 base colour, 16 metallic-roughness, 32 occlusion of its own,
                          // 64 occlusion in the metallic-roughness texture, 128 emissive, 256 thickness
    uint optics;          // number in OpticsBuffer
    uint pad0;
    uint pad1;
};

struct OpticsData {       // src/core/light/brdf.h: Optics
    vec3 f0;              // of a dielectric
    float f90;
    vec3 scatter;         // metres that light goes beneath
    float farthest;       // the largest of them; 0: none
    float coat;
    float coatRoughness;
    float thickness;      // metres, where the texture is white
    float pad0;
};

layout(std430) readonly buffer FrameBuffer { FrameData frames[]; };
// BOTH_EYES: one run draws the left eye into layer 0 and the right one into layer 1; else the buffer begins with the eye that is drawn.
#ifdef BOTH_EYES
#ifdef VERTEX_STAGE
#define EYE (gl_InstanceID & 1)
#else
#define EYE gl_Layer
#endif
#define frame frames[EYE]
#else
#define EYE 0
#define frame frames[0]
#endif
layout(std430) readonly buffer LightBuffer { LightData lights[]; };
layout(std430) readonly buffer DrawBuffer { DrawData draws[]; };
layout(std430) readonly buffer MaterialBuffer { MaterialData materials[]; };
layout(std430) readonly buffer OpticsBuffer { OpticsData allOptics[]; };
layout(std430) readonly buffer LightIndexBuffer { uint lightIndices[]; };
#include "generated/parameters.glsl"
