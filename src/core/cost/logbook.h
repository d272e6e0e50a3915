#pragma once
#include "core/cost/changes.h"
#include "core/cost/measure.h"
#include <filesystem>
#include <nlohmann/json.hpp>

namespace SQLite {
class Database;
}

namespace mirolux {

struct Entry {
    std::int64_t id = 0;
    std::string created;              // ISO 8601, UTC
    std::string note;                 // the user's own words
    std::vector<std::string> changes; // since the entry before
    std::string targetName;
    double budgetMs = 0; // 0: measured here while the target was of another device
    std::string device, clock;
    Interval frame, whole; // ms
    int rounds = 0, width = 0, height = 0;
    std::string sceneDigest, setupDigest;
    bool recovered = false;              // of a measurement that was cut off: its rounds, without counters and picture
    std::vector<std::uint8_t> thumbnail; // PNG
};

/// What the journal draws of an entry.
struct EntryPoint {
    std::int64_t id = 0, at = 0; // at: seconds since 1970, UTC
    double ms = 0, lowMs = 0, highMs = 0, budgetMs = 0;
};

/// Which entries are asked for; empty fields ask for all.
struct EntryQuery {
    std::string device, sceneDigest, setupDigest, targetName;
    int limit = -1; // newest first
};

/// Where a measurement under way is kept round by round, so that a kill loses no more than the round under way.
struct RunStart {
    State state;
    DeviceInfo device;
    Target target;
    std::string sceneDigest;
};

/// A measurement that is no single state: a paired comparison ("pair") or a walk ("walk"), as its whole JSON document.
struct HistoryRecord {
    std::int64_t id = 0;
    std::string created, kind, device, sceneDigest, setupDigest; // setupDigest: of A
    std::string document;
};

/// Measured states of a project, kept in SQLite beside it (write-ahead log: a kill at any moment leaves whole entries
/// and whole rounds only). Costs: an entry's row is narrow and its details lie apart, so that a hundred thousand of
/// them open at once.
class Logbook {
public:
    static constexpr int schema_version = 3;
    /// Opens, creates, or brings an older version up to date in one transaction; turns the rounds of measurements that
    /// were cut off into entries. Errors: unreadable, not a logbook, newer version.
    static Result<Logbook> open(const std::filesystem::path& path);
    Logbook(Logbook&&) noexcept;
    Logbook& operator=(Logbook&&) noexcept;
    ~Logbook();

    /// Adds an entry in one transaction and returns its id; `changes` is found against the newest entry. run: the kept
    /// rounds that it replaces, or 0.
    Result<std::int64_t> add(const State& state, const Measurement& measurement, const DeviceInfo& device,
                             const Target& target, const std::string& sceneDigest, std::int64_t run = 0);
    /// Begins to keep rounds; returns the run. One connection for each thread: open the logbook again there.
    Result<std::int64_t> begin_run(const RunStart& start);
    Result<void> keep_round(std::int64_t run, const RoundSample& sample);
    /// Forgets a run without an entry (a measurement that failed or was stopped before its first round).
    Result<void> drop_run(std::int64_t run);

    /// Keeps a comparison or a walk beside the entries; returns its id.
    Result<std::int64_t> keep_record(const std::string& kind, const std::string& device, const std::string& sceneDigest,
                                     const Setup& setup, const nlohmann::json& document);
    /// Newest first; an empty kind asks for all. The query's target is not looked at.
    Result<std::vector<HistoryRecord>> records(const std::string& kind, const EntryQuery& query = {}) const;

    /// Newest first, with thumbnails.
    Result<std::vector<Entry>> entries(const EntryQuery& query = {}) const;
    /// The entries of these ids, in that order; ids that are gone are left out.
    Result<std::vector<Entry>> entries_of(const std::vector<std::int64_t>& ids) const;
    /// All that are not hidden, oldest first.
    Result<std::vector<EntryPoint>> points() const;
    Result<State> state(std::int64_t id) const;
    /// The measurement's own JSON, with every sample.
    Result<std::string> measurement_json(std::int64_t id) const;
    Result<void> annotate(std::int64_t id, const std::string& note);
    Result<void> remove(std::int64_t id);
    /// Undoes remove: entries are hidden, not destroyed.
    Result<void> bring_back(std::int64_t id);

private:
    explicit Logbook(std::unique_ptr<SQLite::Database> database, std::string path);
    Result<std::int64_t> insert(const State& state, const Measurement& measurement, const std::string& device,
                                const std::string& targetName, double budgetMs, const std::string& sceneDigest,
                                const std::string& created, bool recovered);
    void recover();
    std::unique_ptr<SQLite::Database> database_;
    std::string path_;
};

/// Keeps a measurement's rounds as they come: give `keep` to MeasureOptions::kept, and `run()` to Logbook::add. A round
/// that cannot be kept does not end the measurement; the trouble is reported at its end.
class RoundKeeper {
public:
    RoundKeeper(Logbook& logbook, RunStart start) : logbook_(logbook), start_(std::move(start)) {}
    void keep(const RoundSample& sample);
    std::int64_t run() const { return run_; }
    const std::optional<Error>& trouble() const { return trouble_; }

private:
    Logbook& logbook_;
    RunStart start_;
    std::int64_t run_ = 0;
    std::optional<Error> trouble_;
};

std::filesystem::path logbook_path(const std::filesystem::path& projectPath);
/// Which setup: of its settings that differ from the defaults; 16 hexadecimal digits.
std::string setup_digest(const Setup& setup);

} // namespace mirolux
