#include "app/light_numbers.h"
#include "core/air/air.h"
#include "core/bake/baked_light.h"
#include <QtGlobal>
#include <algorithm>
#include <bit>

namespace mirolux::app {

namespace {

#define TEXT(words) QT_TRANSLATE_NOOP("mirolux::app::LightBench", words)

bool local(const Light& l) {
    return l.type != LightType::directional;
}
bool spot(const Light& l) {
    return l.type == LightType::spot;
}
template <int axis>
double get_position(const Light& l) {
    return l.position[axis];
}
template <int axis>
void put_position(Light& l, double v) {
    l.position[axis] = static_cast<float>(v);
}
void put_outer(Light& l, double v) {
    l.outerConeAngle = std::min(glm::radians(static_cast<float>(v)), 1.5707f);
    l.innerConeAngle = std::min(l.innerConeAngle, l.outerConeAngle);
}
void put_inner(Light& l, double v) {
    l.innerConeAngle = std::min(glm::radians(static_cast<float>(v)), l.outerConeAngle);
}
void put_fade_inner(Light& l, double v) {
    l.fadeInner = static_cast<float>(v);
    if (l.fadeOuter > 0) l.fadeOuter = std::max(l.fadeOuter, l.fadeInner);
}
void put_fade_outer(Light& l, double v) {
    l.fadeOuter = v < 0.1 ? 0.0f : static_cast<float>(v);
    if (l.fadeOuter > 0) l.fadeInner = std::min(l.fadeInner, l.fadeOuter);
}
void put_source_size(Light& l, double v) {
    l.sourceSize = v < 0.002 ? 0.0f : static_cast<float>(v);
}

bool has_beams(const Setup& s) {
    return s.choice("beams.kind") == "mesh";
}
bool shadowMaps(const Setup& s) {
    return s.flag("shadow.maps");
}
bool casts(const Light& l) {
    return l.shadow.mode != ShadowMode::none;
}
void put_shadow_map(Light& l, double v) {
    l.shadow.resolution = v < 8 ? 0 : static_cast<int>(std::bit_floor(static_cast<unsigned>(v)));
}
/// A number that may be the light's own; `all`: stands for that it is not.
template <std::optional<float> LightShadow::*field, float all>
double get_own(const Light& l) {
    return double((l.shadow.*field).value_or(all));
}
template <std::optional<float> LightShadow::*field>
void put_own(Light& l, double v) {
    l.shadow.*field = v < 0 ? std::nullopt : std::optional(static_cast<float>(v));
}

constexpr NumberField::Range placeRange{-1e4, 1e4, 0.02, 2, false};
const LightNumber lightNumbers[] = {
    {TEXT("Temperature"),
     TEXT("temperature"),
     "K",
     {1667, 25000, 0.004, 0, true},
     TEXT("Colour temperature: 1,900 K candle, 2,700 K warm lamp, 6,500 K daylight."),
     [](const Light& l) { return double(l.kelvin); },
     [](Light& l, double v) { l.kelvin = static_cast<float>(v); },
     [](const Light& l) { return l.kelvin > 0; },
     nullptr},
    {TEXT("Range"),
     TEXT("range"),
     "m",
     {0, 1000, 0.02, 2, true},
     TEXT("Light ends here; 0 is unbounded. Smaller ranges touch fewer objects and pixels: the cheapest way to save."),
     [](const Light& l) { return double(l.range); },
     [](Light& l, double v) { l.range = v < 0.1 ? 0.0f : static_cast<float>(v); },
     local,
     TEXT("unbounded")},
    {TEXT("Outer cone"),
     TEXT("outer cone"),
     "\u00b0",
     {1, 90, 0.15, 1, false},
     TEXT("Angle from the axis where the cone ends."),
     [](const Light& l) { return double(glm::degrees(l.outerConeAngle)); },
     put_outer,
     spot,
     nullptr},
    {TEXT("Inner cone"),
     TEXT("inner cone"),
     "\u00b0",
     {0, 90, 0.15, 1, false},
     TEXT("Angle from the axis up to which it shines in full."),
     [](const Light& l) { return double(glm::degrees(l.innerConeAngle)); },
     put_inner,
     spot,
     nullptr},
    {TEXT("Fade from, to"),
     TEXT("fade from"),
     "m",
     {0, 10000, 0.02, 1, true},
     TEXT("Up to this distance from the eye the light is full; then it fades."),
     [](const Light& l) { return double(l.fadeInner); },
     put_fade_inner,
     local,
     nullptr},
    {TEXT("Fade from, to"),
     TEXT("fade to"),
     "m",
     {0, 10000, 0.02, 1, true},
     TEXT("From this distance to the eye on the light is not rendered and costs nothing. 0: as the setup says for all "
          "lights."),
     [](const Light& l) { return double(l.fadeOuter); },
     put_fade_outer,
     local,
     TEXT("as all")},
    {TEXT("Source size"),
     TEXT("source size"),
     "m",
     {0, 20, 0.02, 3, true},
     TEXT("Diameter of what shines: the larger, the softer its shadows and the broader its highlights. Truth has it; "
          "costs nothing in a frame that does not."),
     [](const Light& l) { return double(l.sourceSize); },
     put_source_size,
     local,
     TEXT("a point")},
    {TEXT("Angular size"),
     TEXT("angular size"),
     "\u00b0",
     {0, 60, 0.02, 2, true},
     TEXT("How large it stands in the sky, across: sun and moon 0.53; the larger, the softer its shadows. Truth has "
          "it; costs nothing in a frame that does not."),
     [](const Light& l) { return double(glm::degrees(l.sourceSize)); },
     [](Light& l, double v) { l.sourceSize = v < 0.01 ? 0.0f : glm::radians(static_cast<float>(v)); },
     [](const Light& l) { return l.type == LightType::directional; },
     TEXT("a point")},
    {TEXT("Diffuse, specular"),
     TEXT("diffuse part"),
     "%",
     {0, 100, 0.4, 0, false},
     TEXT("How much of its diffuse light it gives; 0 leaves only the highlight. Costs the same."),
     [](const Light& l) { return 100.0 * l.diffuseShare; },
     [](Light& l, double v) { l.diffuseShare = static_cast<float>(v / 100); },
     nullptr,
     nullptr},
    {TEXT("Diffuse, specular"),
     TEXT("specular part"),
     "%",
     {0, 100, 0.4, 0, false},
     TEXT("How much of its specular light it gives; 0 hides a highlight that disturbs. Costs the same."),
     [](const Light& l) { return 100.0 * l.specularShare; },
     [](Light& l, double v) { l.specularShare = static_cast<float>(v / 100); },
     nullptr,
     nullptr},
    {TEXT("Bounced light"),
     TEXT("bounced light"),
     "%",
     {0, 1000, 0.6, 0, false},
     TEXT("How much of its bounced light goes into what is baked: over 100 more than is true. Costs the same."),
     [](const Light& l) { return 100.0 * double(l.indirectShare); },
     [](Light& l, double v) { l.indirectShare = static_cast<float>(v / 100); },
     nullptr,
     nullptr,
     uses_light_map},
    {TEXT("In the air"),
     TEXT("share in the air"),
     "%",
     {-1, 1000, 1, 0, false},
     TEXT("How much of its light the air shows: 0 leaves no beam, over 100 more than is true. 0 costs nothing there."),
     [](const Light& l) { return l.airShare ? 100.0 * double(*l.airShare) : -1.0; },
     [](Light& l, double v) { l.airShare = v < 0 ? std::nullopt : std::optional(static_cast<float>(v / 100)); },
     nullptr,
     TEXT("as all"),
     air_shows_lamps},
    {TEXT("Beam, strength, length"),
     TEXT("beam strength"),
     "1/m",
     {-0.0001, 1, 0.0005, 4, false},
     TEXT("Its beam of mesh as air that scatters so much in a metre; 0: it has none."),
     [](const Light& l) { return !l.beam.on        ? 0.0
                                 : l.beam.strength ? double(*l.beam.strength)
                                                   : double(-0.0001f); },
     [](Light& l, double v) {
         l.beam.on = v != 0;
         l.beam.strength = v <= 0 ? std::nullopt : std::optional(static_cast<float>(v));
     },
     local,
     TEXT("as all"),
     has_beams},
    {TEXT("Beam, strength, length"),
     TEXT("beam length"),
     "m",
     {0, 200, 0.1, 1, true},
     TEXT("Metres to the end of its beam of mesh, or its halo's radius."),
     [](const Light& l) { return l.beam.length ? double(*l.beam.length) : 0.0; },
     [](Light& l, double v) { l.beam.length = v < 0.01 ? std::nullopt : std::optional(static_cast<float>(v)); },
     local,
     TEXT("its range"),
     has_beams},
    {TEXT("Shadow map"),
     TEXT("shadow map"),
     "texels",
     {0, 8192, 0.03, 0, true},
     TEXT("Side of each of its maps, a power of two; four times the texels for twice the side."),
     [](const Light& l) { return double(l.shadow.resolution); },
     put_shadow_map,
     casts,
     TEXT("by importance"),
     shadowMaps},
    {TEXT("Shadow bias"),
     TEXT("shadow bias"),
     "m",
     {-0.001, 1, 0.001, 3, false},
     TEXT("Its own bias toward the light; too little shows acne, too much takes shadows off what casts them."),
     get_own<&LightShadow::bias, -0.001f>,
     put_own<&LightShadow::bias>,
     casts,
     TEXT("as all"),
     shadowMaps},
    {TEXT("Bias by slope, normal"),
     TEXT("shadow slope bias"),
     "texels",
     {-0.05, 8, 0.02, 2, false},
     TEXT("Its own bias by as much as the surface's depth changes over so many texels."),
     get_own<&LightShadow::slopeBias, -0.05f>,
     put_own<&LightShadow::slopeBias>,
     casts,
     TEXT("as all"),
     shadowMaps},
    {TEXT("Bias by slope, normal"),
     TEXT("shadow normal offset"),
     "texels",
     {-0.05, 8, 0.02, 2, false},
     TEXT("Its own offset along the surface's normal."),
     get_own<&LightShadow::normalOffset, -0.05f>,
     put_own<&LightShadow::normalOffset>,
     casts,
     TEXT("as all"),
     shadowMaps},
    {TEXT("Shadow near, opacity"),
     TEXT("shadow near"),
     "m",
     {0, 20, 0.02, 2, true},
     TEXT("Nothing nearer to it casts: its own glass and shade."),
     get_own<&LightShadow::near, 0.0f>,
     [](Light& l, double v) { l.shadow.near = v < 0.001 ? std::nullopt : std::optional(static_cast<float>(v)); },
     [](const Light& l) { return casts(l) && local(l); },
     TEXT("as all"),
     shadowMaps},
    {TEXT("Shadow near, opacity"),
     TEXT("shadow opacity"),
     "%",
     {-1, 100, 0.4, 0, false},
     TEXT("How much of its light its shadow takes away; 0: it gets no map."),
     [](const Light& l) { return l.shadow.opacity ? 100.0 * double(*l.shadow.opacity) : -1.0; },
     [](Light& l, double v) { l.shadow.opacity = v < 0 ? std::nullopt : std::optional(static_cast<float>(v / 100)); },
     casts,
     TEXT("as all"),
     shadowMaps},
    {TEXT("Position, m"), TEXT("position x"), "", placeRange, TEXT("x in metres."), get_position<0>, put_position<0>,
     nullptr, nullptr},
    {TEXT("Position, m"), TEXT("position y"), "", placeRange, TEXT("y in metres."), get_position<1>, put_position<1>,
     nullptr, nullptr},
    {TEXT("Position, m"), TEXT("position z"), "", placeRange, TEXT("z in metres."), get_position<2>, put_position<2>,
     nullptr, nullptr},
};
#undef TEXT

} // namespace

std::span<const LightNumber> light_numbers() {
    return lightNumbers;
}

} // namespace mirolux::app
