#include "core/io/from_word.h"
#include "core/io/wire.h"

// Lights of all kinds, their motion, and clouds of air.
namespace mirolux {

static constexpr LightType lightTypes[] = {LightType::directional, LightType::point, LightType::spot};
static constexpr IntensityUnit units[] = {IntensityUnit::candela, IntensityUnit::lumen, IntensityUnit::lux};
static constexpr VolumeShape volumeShapes[] = {VolumeShape::box, VolumeShape::sphere};
static constexpr MotionKind motionKinds[] = {MotionKind::sweep, MotionKind::shuttle, MotionKind::blink,
                                             MotionKind::pulse, MotionKind::flicker, MotionKind::turn,
                                             MotionKind::path};
static constexpr FlatShape flatShapes[] = {FlatShape::round, FlatShape::line, FlatShape::picture, FlatShape::text};

static constexpr ShadowMode shadowModes[] = {ShadowMode::asAll, ShadowMode::none, ShadowMode::hard, ShadowMode::soft};

/// The numbers of a light's shadow that may be its own: key, field, least and most.
static constexpr struct {
    const char* key;
    std::optional<float> LightShadow::*field;
    double low, high;
} shadow_numbers[] = {{"bias", &LightShadow::bias, 0, 10},
                      {"slopeBias", &LightShadow::slopeBias, 0, 32},
                      {"normalOffset", &LightShadow::normalOffset, 0, 32},
                      {"near", &LightShadow::near, 0.001, 100},
                      {"opacity", &LightShadow::opacity, 0, 1}};

/// What differs from the setup's alone.
static Json to_json(const LightShadow& s) {
    Json j = Json::object();
    if (s.mode != ShadowMode::asAll) j["mode"] = word(s.mode);
    if (s.resolution > 0) j["resolution"] = s.resolution;
    for (const auto& n : shadow_numbers)
        if (s.*n.field) j[n.key] = *(s.*n.field);
    return j;
}

static LightShadow light_shadow_from_json(const JsonCursor& j) {
    LightShadow s;
    if (j.has("mode")) s.mode = from_word(j["mode"], shadowModes);
    s.resolution = static_cast<int>(j.whole("resolution", 0, 8192));
    for (const auto& n : shadow_numbers)
        if (j.has(n.key)) s.*n.field = static_cast<float>(j.number(n.key, 0, n.low, n.high));
    return s;
}

static Json to_json(const LightBeam& b) {
    Json j = Json::object();
    if (!b.on) j["on"] = false;
    for (const auto& [key, value] :
         {std::pair("strength", b.strength), {"length", b.length}, {"along", b.along}, {"across", b.across}})
        if (value) j[key] = *value;
    return j;
}

static LightBeam light_beam_from_json(const JsonCursor& j) {
    LightBeam b;
    b.on = j.flag("on", true);
    const auto read = [&](const char* key, std::optional<float>& to, double most) {
        if (j.has(key)) to = static_cast<float>(j.number(key, 0.0, 0.0, most));
    };
    read("strength", b.strength, 1e4);
    read("length", b.length, 1e5);
    read("along", b.along, 16);
    read("across", b.across, 16);
    return b;
}

/// What differs from a plain round light's alone.
static Json to_json(const LightFlat& f) {
    const LightFlat none;
    Json j = Json::object();
    if (f.shape != none.shape) j["shape"] = word(f.shape);
    if (!f.picture.empty()) j["picture"] = f.picture;
    if (!f.text.empty()) j["text"] = f.text;
    if (f.length != none.length) j["length"] = f.length;
    if (f.size != none.size) j["size"] = f.size;
    if (f.turn != none.turn) j["turn"] = f.turn;
    if (f.falloff != none.falloff) j["falloff"] = f.falloff;
    if (f.strongest != none.strongest) j["strongest"] = f.strongest;
    if (!f.layers.empty()) j["layers"] = f.layers;
    if (!f.casts) j["casts"] = false;
    return j;
}

static LightFlat light_flat_from_json(const JsonCursor& j) {
    LightFlat f;
    if (j.has("shape")) f.shape = from_word(j["shape"], flatShapes);
    f.picture = j.text("picture", "");
    f.text = j.text("text", "");
    if (f.text.size() > 64) j["text"].complain("is longer than 64 letters");
    f.length = static_cast<float>(j.number("length", f.length, 0.0, 1e5));
    f.size = static_cast<float>(j.number("size", f.size, 0.01, 1e4));
    f.turn = static_cast<float>(j.number("turn", f.turn, -1e4, 1e4));
    f.falloff = static_cast<float>(j.number("falloff", f.falloff, 0.05, 16.0));
    f.strongest = static_cast<float>(j.number("strongest", f.strongest, 0.0, 1e4));
    const JsonCursor layers = j.list("layers");
    for (std::size_t i = 0; i < layers.size(); ++i)
        f.layers.push_back(layers.at(i).text());
    f.casts = j.flag("casts", true);
    return f;
}

Json to_json(const Light& l) {
    Json j = {{"id", l.id},
              {"name", l.name},
              {"type", word(l.type)},
              {"enabled", l.enabled},
              {"color", to_array(l.color)},
              {"kelvin", l.kelvin},
              {"intensity", l.intensity},
              {"unit", word(l.unit)},
              {"range", l.range},
              {"position", to_array(l.position)},
              {"direction", to_array(l.direction)},
              {"innerConeAngle", l.innerConeAngle},
              {"outerConeAngle", l.outerConeAngle},
              {"fadeInner", l.fadeInner},
              {"fadeOuter", l.fadeOuter},
              {"sourceSize", l.sourceSize},
              {"diffuseShare", l.diffuseShare},
              {"specularShare", l.specularShare}};
    if (l.shadow != LightShadow()) j["shadow"] = to_json(l.shadow);
    if (l.airShare) j["airShare"] = *l.airShare;
    if (l.beam != LightBeam()) j["beam"] = to_json(l.beam);
    if (l.flat != LightFlat()) j["flat"] = to_json(l.flat);
    if (l.mobility != Mobility::still) j["mobility"] = word(l.mobility);
    if (l.indirectShare != 1.0f) j["indirectShare"] = l.indirectShare;
    return j;
}

Light light_from_json(const JsonCursor& j, const Light& base) {
    Light l = base;
    l.id = static_cast<int>(j.whole("id", static_cast<std::uint64_t>(std::max(0, base.id)), 0x7FFFFFFF));
    l.name = j.text("name", base.name);
    if (j.has("type")) l.type = from_word(j["type"], lightTypes);
    l.enabled = j.flag("enabled", base.enabled);
    l.color = j.vector<3>("color", base.color);
    l.kelvin = static_cast<float>(j.number("kelvin", base.kelvin, 0.0, 40000.0));
    l.intensity = static_cast<float>(j.number("intensity", base.intensity, 0.0));
    if (j.has("unit")) l.unit = from_word(j["unit"], units);
    l.range = static_cast<float>(j.number("range", base.range, 0.0));
    l.position = j.vector<3>("position", base.position);
    l.direction = j.vector<3>("direction", base.direction);
    const float length = glm::length(l.direction);
    if (!(length > 1e-6f)) j.complain("has a direction without length");
    if (std::abs(length - 1.0f) > 1e-5f) l.direction /= length;
    l.innerConeAngle = static_cast<float>(j.number("innerConeAngle", base.innerConeAngle, 0.0, 1.5708));
    l.outerConeAngle = static_cast<float>(j.number("outerConeAngle", base.outerConeAngle, 0.0, 1.5708));
    if (l.innerConeAngle > l.outerConeAngle) j.complain("innerConeAngle is larger than outerConeAngle");
    l.fadeInner = static_cast<float>(j.number("fadeInner", base.fadeInner, 0.0));
    l.fadeOuter = static_cast<float>(j.number("fadeOuter", base.fadeOuter, 0.0));
    l.sourceSize = static_cast<float>(j.number("sourceSize", base.sourceSize, 0.0, most_source_size(l.type)));
    l.diffuseShare = static_cast<float>(j.number("diffuseShare", base.diffuseShare, 0.0, 1.0));
    l.specularShare = static_cast<float>(j.number("specularShare", base.specularShare, 0.0, 1.0));
    if (j.has("shadow")) l.shadow = light_shadow_from_json(j["shadow"]);
    if (j.has("beam")) l.beam = light_beam_from_json(j["beam"]);
    if (j.has("flat")) l.flat = light_flat_from_json(j["flat"]);
    if (j.has("airShare")) l.airShare = static_cast<float>(j.number("airShare", 1.0, 0.0, 1e6));
    if (j.has("mobility")) l.mobility = from_word(j["mobility"], all_mobilities);
    l.indirectShare = static_cast<float>(j.number("indirectShare", base.indirectShare, 0.0, 100.0));
    return l;
}

Json to_json(const AirVolume& v) {
    const AirVolume none;
    Json j = {{"id", v.id},
              {"name", v.name},
              {"shape", word(v.shape)},
              {"center", to_array(v.center)},
              {"size", to_array(v.size)},
              {"extinction", v.extinction},
              {"falloff", v.falloff}};
    if (!v.enabled) j["enabled"] = false;
    if (v.turn != none.turn) j["turn"] = v.turn;
    if (v.albedo != none.albedo) j["albedo"] = to_array(v.albedo);
    if (v.emission != none.emission) j["emission"] = to_array(v.emission);
    if (v.noise != none.noise) j["noise"] = v.noise;
    if (v.grain != none.grain) j["grain"] = v.grain;
    if (v.drift != none.drift) j["drift"] = to_array(v.drift);
    return j;
}

AirVolume air_volume_from_json(const JsonCursor& j) {
    AirVolume v;
    v.id = static_cast<int>(j["id"].whole(0x7FFFFFFF));
    v.name = j.text("name", "air " + std::to_string(v.id));
    v.enabled = j.flag("enabled", true);
    if (j.has("shape")) v.shape = from_word(j["shape"], volumeShapes);
    v.center = j.vector<3>("center", v.center);
    v.size = j.vector<3>("size", v.size);
    v.turn = static_cast<float>(j.number("turn", v.turn, -6.2832, 6.2832));
    v.extinction = static_cast<float>(j.number("extinction", v.extinction, 0.0, 100.0));
    v.albedo = j.vector<3>("albedo", v.albedo);
    v.emission = j.vector<3>("emission", v.emission);
    v.falloff = static_cast<float>(j.number("falloff", v.falloff, 0.0, 1e4));
    v.noise = static_cast<float>(j.number("noise", v.noise, 0.0, 1.0));
    v.grain = static_cast<float>(j.number("grain", v.grain, 0.01, 1e4));
    v.drift = j.vector<3>("drift", v.drift);
    for (int c = 0; c < 3; ++c) {
        if (!(v.size[c] > 0.0f)) j["size"].complain("must be over 0 along each axis");
        if (!(v.albedo[c] >= 0.0f && v.albedo[c] <= 1.0f)) j["albedo"].complain("must lie between 0 and 1");
        if (!(v.emission[c] >= 0.0f)) j["emission"].complain("must not be negative");
    }
    return v;
}

Json to_json(const Door& d) {
    const Door none;
    Json j = {{"id", d.id}, {"name", d.name}, {"center", to_array(d.center)}, {"size", {d.size.x, d.size.y}}};
    if (d.turn != none.turn) j["turn"] = d.turn;
    if (d.open != none.open) j["open"] = d.open;
    if (!d.object.empty()) j["object"] = d.object;
    if (d.travel != none.travel) j["travel"] = d.travel;
    return j;
}

Door door_from_json(const JsonCursor& j) {
    Door d;
    d.id = static_cast<int>(j["id"].whole(0x7FFFFFFF));
    d.name = j["name"].text();
    d.center = j["center"].vector<3>();
    d.size = j["size"].vector<2>();
    for (int k = 0; k < 2; ++k)
        if (!(d.size[k] >= 0.01f && d.size[k] <= 1000.0f)) j["size"].complain("must lie between 0.01 and 1000 metres");
    d.turn = static_cast<float>(j.number("turn", d.turn, -7, 7));
    d.open = static_cast<float>(j.number("open", d.open, 0, 1));
    d.object = j.text("object", "");
    d.travel = static_cast<float>(j.number("travel", d.travel, 0.01, 1000));
    return d;
}

Json to_json(const DrawnRoom& r) {
    return {{"id", r.id}, {"name", r.name}, {"low", to_array(r.low)}, {"high", to_array(r.high)}};
}

DrawnRoom drawn_room_from_json(const JsonCursor& j) {
    DrawnRoom r{static_cast<int>(j["id"].whole(0x7FFFFFFF)), j["name"].text(), j["low"].vector<3>(),
                j["high"].vector<3>()};
    if (!glm::all(glm::lessThan(r.low, r.high))) j["high"].complain("must lie beyond \"low\" along each axis");
    return r;
}

Json to_json(const Probe& p) {
    const Probe none;
    Json j = {{"id", p.id},
              {"name", p.name},
              {"position", to_array(p.position)},
              {"center", to_array(p.center)},
              {"size", to_array(p.size)}};
    if (!p.enabled) j["enabled"] = false;
    if (p.turn != none.turn) j["turn"] = p.turn;
    if (p.blend != none.blend) j["blend"] = p.blend;
    if (p.weight != none.weight) j["weight"] = p.weight;
    if (p.recapture != none.recapture) j["recapture"] = word(p.recapture);
    if (!p.file.empty()) j["file"] = p.file;
    if (!p.captured.empty()) j["captured"] = p.captured;
    return j;
}

Probe probe_from_json(const JsonCursor& j) {
    Probe p;
    p.id = static_cast<int>(j["id"].whole(0x7FFFFFFF));
    p.name = j.text("name", "probe " + std::to_string(p.id));
    p.enabled = j.flag("enabled", true);
    p.position = j.vector<3>("position", p.position);
    p.center = j.vector<3>("center", p.position);
    p.size = j.vector<3>("size", p.size);
    p.turn = static_cast<float>(j.number("turn", p.turn, -6.2832, 6.2832));
    p.blend = static_cast<float>(j.number("blend", p.blend, 0.0, 1e4));
    p.weight = static_cast<float>(j.number("weight", p.weight, 0.0, 1.0));
    if (j.has("recapture")) p.recapture = from_word(j["recapture"], all_recaptures);
    p.file = j.text("file", "");
    p.captured = j.text("captured", "");
    for (int c = 0; c < 3; ++c)
        if (!(p.size[c] > 0.0f)) j["size"].complain("must be over 0 along each axis");
    return p;
}

Json to_json(const Motion& m) {
    Json j = {{"light", m.light}, {"kind", word(m.kind)},         {"period", m.period}, {"phase", m.phase},
              {"angle", m.angle}, {"travel", to_array(m.travel)}, {"duty", m.duty}};
    if (m.kind == MotionKind::pulse || m.kind == MotionKind::flicker) j["depth"] = m.depth;
    if (m.kind == MotionKind::flicker) j["seed"] = m.seed;
    if (m.kind == MotionKind::path) {
        j["way"] = Json::array();
        for (const glm::vec3& p : m.way)
            j["way"].push_back(to_array(p));
    }
    return j;
}

Json to_json(const ClipPlay& p) {
    const ClipPlay usual;
    Json j = {{"clip", p.clip}};
    if (p.on != usual.on) j["on"] = p.on;
    if (p.loop != usual.loop) j["loop"] = p.loop;
    if (p.speed != usual.speed) j["speed"] = p.speed;
    if (p.offset != usual.offset) j["offset"] = p.offset;
    if (p.share != usual.share) j["share"] = p.share;
    return j;
}

ClipPlay clip_play_from_json(const JsonCursor& j) {
    ClipPlay p;
    p.clip = j["clip"].text();
    p.on = j.flag("on", p.on);
    p.loop = j.flag("loop", p.loop);
    p.speed = j.number("speed", p.speed, -100, 100);
    p.offset = j.number("offset", p.offset, -1e6, 1e6);
    p.share = j.number("share", p.share, 0, 1000);
    return p;
}

Motion motion_from_json(const JsonCursor& j) {
    Motion m;
    m.light = static_cast<int>(j["light"].whole(0x7FFFFFFF));
    m.kind = from_word(j["kind"], motionKinds);
    m.period = static_cast<float>(j.number("period", m.period, 0.01, 1e6));
    m.phase = static_cast<float>(j.number("phase", m.phase));
    m.angle = static_cast<float>(j.number("angle", m.angle, 0.0, 6.2832));
    m.travel = j.vector<3>("travel", m.travel);
    m.duty = static_cast<float>(j.number("duty", m.duty, 0.0, 1.0));
    m.depth = static_cast<float>(j.number("depth", m.depth, 0.0, 1.0));
    m.seed = static_cast<std::uint32_t>(j.whole("seed", m.seed));
    const JsonCursor way = j.list("way");
    for (std::size_t i = 0; i < way.size(); ++i)
        m.way.push_back(way.at(i).vector<3>());
    if (m.kind == MotionKind::path && (way.size() < 2 || way.size() > 1000)) way.complain("needs 2 to 1000 places");
    return m;
}

Json to_json(const CheapLight& l) {
    Json j = {{"id", l.id}, {"name", l.name}, {"shape", word(l.shape)}};
    if (!l.enabled) j["enabled"] = false;
    if (!l.standsFor.empty()) j["standsFor"] = l.standsFor;
    if (l.solid()) {
        j["position"] = to_array(l.position);
        j["reach"] = l.reach;
        j["tint"] = to_array(l.tint);
        if (l.shape == CheapShape::cone) {
            j["direction"] = to_array(l.direction);
            j["angle"] = l.angle;
        }
        return j;
    }
    j["toward"] = to_array(l.toward);
    j["blend"] = word(l.blend);
    j["luminance"] = l.luminance;
    j["ramp"] = Json::array();
    for (const RampStop& s : l.ramp)
        j["ramp"].push_back({{"at", s.at}, {"color", to_array(s.color)}, {"amount", s.amount}});
    if (!l.objects.empty()) j["objects"] = l.objects;
    return j;
}

static glm::vec3 unit_from_json(const JsonCursor& j) {
    const auto v = j.vector<3>();
    const float length = glm::length(v);
    if (!(length > 1e-6f)) j.complain("must not be zero");
    return std::abs(length - 1.0f) < 1e-6f ? v : v / length;
}

static glm::vec3 light_color_from_json(const JsonCursor& j) {
    const auto c = j.vector<3>();
    for (int k = 0; k < 3; ++k)
        if (!(c[k] >= 0.0f && c[k] <= 1e4f)) j.complain("must lie between 0 and 10000");
    return c;
}

CheapLight cheap_light_from_json(const JsonCursor& j) {
    CheapLight l;
    l.id = static_cast<int>(j["id"].whole(0x7FFFFFFF));
    l.name = j.text("name", "cheap light " + std::to_string(l.id));
    l.enabled = j.flag("enabled", true);
    l.shape = from_word(j["shape"], cheapShapes);
    const JsonCursor standsFor = j.list("standsFor"), ramp = j.list("ramp"), objects = j.list("objects");
    for (std::size_t i = 0; i < standsFor.size(); ++i)
        l.standsFor.push_back(static_cast<int>(standsFor.at(i).whole(0x7FFFFFFF)));
    if (l.solid()) {
        l.position = j["position"].vector<3>();
        l.reach = static_cast<float>(j.number("reach", l.reach, 0.001, 1e5));
        if (j.has("tint")) l.tint = light_color_from_json(j["tint"]);
        if (j.has("direction")) l.direction = unit_from_json(j["direction"]);
        l.angle = static_cast<float>(j.number("angle", l.angle, 0.01, 1.5));
        return l;
    }
    if (j.has("toward")) l.toward = unit_from_json(j["toward"]);
    if (j.has("blend")) l.blend = from_word(j["blend"], cheapBlends);
    l.luminance = static_cast<float>(j.number("luminance", l.luminance, 0.0, 1e9));
    if (ramp.size() == 0 || ramp.size() > most_ramp_stops) ramp.complain("needs one to four stops");
    for (std::size_t i = 0; i < ramp.size(); ++i) {
        const JsonCursor s = ramp.at(i);
        RampStop stop;
        stop.at = static_cast<float>(s.number("at", stop.at, 0.0, 1.0));
        if (s.has("color")) stop.color = light_color_from_json(s["color"]);
        stop.amount = static_cast<float>(s.number("amount", stop.amount, 0.0, 1.0));
        if (!l.ramp.empty() && stop.at < l.ramp.back().at) s["at"].complain("comes before the stop before");
        l.ramp.push_back(stop);
    }
    for (std::size_t i = 0; i < objects.size(); ++i)
        l.objects.push_back(objects.at(i).text());
    return l;
}

} // namespace mirolux
