#include "core/scene/history.h"
#include <algorithm>
#include <unordered_map>
#include <unordered_set>

namespace mirolux {

namespace {

template <class T>
using Run = std::shared_ptr<const std::vector<T>>;

std::uint64_t hash_of(const std::string& id) {
    return std::hash<std::string>{}(id);
}
std::uint64_t hash_of(int id) {
    std::uint64_t h = static_cast<std::uint64_t>(id) * 0x9E3779B97F4A7C15ull;
    return h ^ (h >> 32);
}

/// A list in runs that end where an element's id says so: a change, an element more or less touches one run or two.
template <class T>
std::vector<Run<T>> in_runs(const std::vector<T>& list, const std::vector<Run<T>>* before) {
    using Id = std::decay_t<decltype(T::id)>;
    std::unordered_map<Id, const Run<T>*> known;
    if (before)
        for (const Run<T>& run : *before)
            known.emplace(run->front().id, &run);
    std::vector<Run<T>> out;
    for (auto from = list.begin(); from != list.end();) {
        auto to = from + 1;
        while (to != list.end() && hash_of((to - 1)->id) % 32 != 0)
            ++to;
        const auto it = known.find(from->id);
        if (it != known.end() && (*it->second)->size() == static_cast<std::size_t>(to - from) &&
            std::equal(from, to, (*it->second)->begin()))
            out.push_back(*it->second);
        else
            out.push_back(std::make_shared<const std::vector<T>>(from, to));
        from = to;
    }
    return out;
}

template <class T>
std::vector<T> in_one(const std::vector<Run<T>>& runs) {
    std::size_t count = 0;
    for (const Run<T>& r : runs)
        count += r->size();
    std::vector<T> out;
    out.reserve(count);
    for (const Run<T>& r : runs)
        out.insert(out.end(), r->begin(), r->end());
    return out;
}

} // namespace

namespace steps {

/// What of a project changes seldom, and is much.
struct Slow {
    std::vector<Target> targets;
    std::vector<std::pair<std::string, Setup>> setups;
    std::vector<Camera> cameras;
    std::vector<Walk> walks;
    std::optional<Setup> shared, b;
    Setup setup;

    bool operator==(const Slow&) const = default;
};

static Slow take_slow(Project& p) {
    Slow s;
    std::swap(s.targets, p.targets);
    std::swap(s.setups, p.setups);
    std::swap(s.cameras, p.cameras);
    std::swap(s.walks, p.walks);
    std::swap(s.shared, p.shared);
    std::swap(s.b, p.b);
    std::swap(s.setup, p.setup);
    return s;
}
static void put_slow(const Slow& s, Project& p) {
    p.targets = s.targets;
    p.setups = s.setups;
    p.cameras = s.cameras;
    p.walks = s.walks;
    p.shared = s.shared;
    p.b = s.b;
    p.setup = s.setup;
}

} // namespace steps

struct History::Step {
    Project rest; // without what the others hold
    std::shared_ptr<const steps::Slow> slow;
    std::vector<Run<Light>> lights;
    std::vector<Run<CheapLight>> cheapLights;
    std::vector<Run<ObjectEdit>> objects;
    std::vector<Run<BuiltThing>> things;
    BuiltPtr built; // while it is held elsewhere
    std::string label;
};

History::History() = default;
History::~History() = default;

std::size_t History::size() const {
    return steps_.size();
}
bool History::can_redo() const {
    return place_ + 1 < steps_.size();
}

History::Step History::frozen(const Project& project, std::string label) const {
    Step s;
    const Step* before = steps_.empty() ? nullptr : &steps_[place_];
    s.rest = project;
    auto slow = steps::take_slow(s.rest);
    s.slow = before && *before->slow == slow ? before->slow : std::make_shared<const steps::Slow>(std::move(slow));
    s.lights = in_runs(s.rest.lights, before ? &before->lights : nullptr);
    s.cheapLights = in_runs(s.rest.cheapLights, before ? &before->cheapLights : nullptr);
    s.objects = in_runs(s.rest.objects.list(), before ? &before->objects : nullptr);
    if (s.rest.built) {
        s.built = s.rest.built;
        s.things = before && before->built == s.built ? before->things
                                                      : in_runs(s.built->things, before ? &before->things : nullptr);
    }
    s.rest.lights.clear(), s.rest.lights.shrink_to_fit();
    s.rest.cheapLights.clear(), s.rest.cheapLights.shrink_to_fit();
    s.rest.objects = {};
    s.rest.built.reset();
    s.label = std::move(label);
    return s;
}

Project History::thawed(const Step& s) const {
    Project p = s.rest;
    steps::put_slow(*s.slow, p);
    p.lights = in_one(s.lights);
    p.cheapLights = in_one(s.cheapLights);
    p.objects = in_one(s.objects);
    if (s.built)
        p.built = s.built;
    else if (!s.things.empty())
        p.built = std::make_shared<const Built>(Built{in_one(s.things)});
    return p;
}

void History::begin(const Project& project, const std::string& label) {
    steps_.clear();
    place_ = 0;
    steps_.push_back(frozen(project, label));
}

void History::add(const Project& project, const std::string& label) {
    Step s = frozen(project, label);
    steps_.resize(place_ + 1);
    // Only neighbours are likely to be asked for soon: of the others the runs are enough.
    if (place_ > 0 && steps_[place_ - 1].built != steps_[place_].built) steps_[place_ - 1].built.reset();
    steps_.push_back(std::move(s));
    if (steps_.size() > most_steps + 1) steps_.erase(steps_.begin());
    place_ = steps_.size() - 1;
}

void History::replace(const Project& project) {
    steps_[place_] = frozen(project, steps_[place_].label);
    steps_.resize(place_ + 1);
}

void History::change_all(const std::function<void(Project&)>& change) {
    const std::size_t current = place_;
    for (place_ = 0; place_ < steps_.size(); ++place_) {
        Project p = thawed(steps_[place_]);
        change(p);
        const std::size_t at = place_;
        if (at > 0) place_ = at - 1; // what it shares, it shares with the one before
        Step s = frozen(p, steps_[at].label);
        place_ = at;
        steps_[at] = std::move(s);
    }
    place_ = current;
}

const std::string& History::undo_label() const {
    static const std::string none;
    return can_undo() ? steps_[place_].label : none;
}
const std::string& History::redo_label() const {
    static const std::string none;
    return can_redo() ? steps_[place_ + 1].label : none;
}

Project History::undo() {
    if (can_undo()) --place_;
    return thawed(steps_[place_]);
}
Project History::redo() {
    if (can_redo()) ++place_;
    return thawed(steps_[place_]);
}

std::size_t History::bytes() const {
    std::unordered_set<const void*> seen;
    std::size_t sum = 0;
    const auto runs = [&](const auto& list) {
        sum += list.capacity() * sizeof(list[0]);
        for (const auto& run : list)
            if (seen.insert(run.get()).second) sum += run->capacity() * sizeof((*run)[0]) + 64;
    };
    for (const Step& s : steps_) {
        sum += sizeof(Step);
        runs(s.lights);
        runs(s.cheapLights);
        runs(s.objects);
        runs(s.things);
        if (s.built && seen.insert(s.built.get()).second) sum += s.built->things.capacity() * sizeof(BuiltThing);
        if (seen.insert(s.slow.get()).second)
            sum += sizeof(steps::Slow) + (s.slow->targets.size() + 3) * sizeof(Target);
    }
    return sum;
}

} // namespace mirolux
