#pragma once
#include "core/scene/project.h"
#include <functional>

namespace mirolux {

/// Values of a project, step after step, with one that is current. What steps have in common is held once: long lists
/// (objects' edits, what is built, lights) in runs of their elements, setups as a whole.
class History {
public:
    /// How many steps are kept: edits that can be taken back. Older ones are forgotten.
    static constexpr std::size_t most_steps = 1000;

    History();
    ~History();
    History(const History&) = delete;
    History& operator=(const History&) = delete;

    /// Begins anew with one value.
    void begin(const Project& project, const std::string& label);
    /// A step behind the current one, which becomes the current one; what was behind it is forgotten.
    void add(const Project& project, const std::string& label);
    /// Another value of the current step; what was behind it is forgotten.
    void replace(const Project& project);
    /// Another value of each step that is held.
    void change_all(const std::function<void(Project&)>& change);

    bool can_undo() const { return place_ > 0; }
    bool can_redo() const;
    const std::string& undo_label() const; // of what would be taken back
    const std::string& redo_label() const;
    Project undo();
    Project redo();
    std::size_t size() const;
    /// About how many bytes the steps take.
    std::size_t bytes() const;

private:
    struct Step;
    Step frozen(const Project& project, std::string label) const;
    Project thawed(const Step& step) const;
    std::vector<Step> steps_;
    std::size_t place_ = 0;
};

} // namespace mirolux
