#pragma once
#include "core/cost/measure.h"
#include "core/scene/project.h"
#include <filesystem>
#include <nlohmann/json.hpp>

namespace SQLite {
class Database;
}

namespace mirolux {

/// What an entry can bring back: how the scene was lit, rendered and looked at.
struct State {
    Setup setup;
    std::vector<Light> lights;
    View view;

    bool operator==(const State&) const = default;
};
inline State state_of(const Project& p) { return {p.setup, p.lights, p.view}; }

/// What changed from one state to the next, a line each, in words.
std::vector<std::string> describe_changes(const State& from, const State& to);

struct Entry {
    std::int64_t id = 0;
    std::string created; // ISO 8601, UTC
    std::string note;    // the user's own words
    std::vector<std::string> changes; // since the entry before
    std::string targetName;
    double budgetMs = 0;
    std::string device, clock;
    Interval frame, whole; // ms
    int rounds = 0, width = 0, height = 0;
    std::string sceneDigest;
    std::vector<std::uint8_t> thumbnail; // PNG
};

/// Measured states of a project, kept in SQLite beside it (write-ahead log: a kill at any moment leaves whole entries only).
class Logbook {
public:
    /// Opens or creates. Errors: unreadable, not a logbook, newer version.
    static Result<Logbook> open(const std::filesystem::path& path);
    Logbook(Logbook&&) noexcept;
    Logbook& operator=(Logbook&&) noexcept;
    ~Logbook();

    /// Adds an entry in one transaction and returns its id; `changes` is found against the newest entry.
    Result<std::int64_t> add(const State& state, const Measurement& measurement, const DeviceInfo& device, const Target& target, const std::string& sceneDigest);
    /// Newest first.
    Result<std::vector<Entry>> entries() const;
    Result<State> state(std::int64_t id) const;
    /// The measurement's own JSON, with every sample.
    Result<std::string> measurement_json(std::int64_t id) const;
    Result<void> annotate(std::int64_t id, const std::string& note);
    Result<void> remove(std::int64_t id);
    /// Undoes remove: entries are hidden, not destroyed.
    Result<void> bring_back(std::int64_t id);

private:
    explicit Logbook(std::unique_ptr<SQLite::Database> database, std::string path);
    std::unique_ptr<SQLite::Database> database_;
    std::string path_;
};

std::filesystem::path logbook_path(const std::filesystem::path& projectPath);
nlohmann::json to_json(const Measurement& measurement);
nlohmann::json to_json(const Comparison& comparison);

} // namespace mirolux
