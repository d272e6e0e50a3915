#pragma once
#include "core/flat/pieces.h"
#include <QObject>
#include <vector>

namespace mirolux::app {

class Document;

/// What is selected: lights by id and objects by number, both in the order in which they were taken; the last one
/// leads. Never holds what the project does not have.
class Selection : public QObject {
    Q_OBJECT
public:
    explicit Selection(Document& document, QObject* parent = nullptr);

    const std::vector<int>& lights() const { return lights_; }
    const std::vector<int>& objects() const { return objects_; } // into Scene::objects()
    /// The one light, if nothing else is selected; else -1.
    int light() const { return lights_.size() == 1 && objects_.empty() ? lights_.front() : -1; }
    bool empty() const { return lights_.empty() && objects_.empty(); }
    /// The cheap light that is edited, beside whatever else is selected; -1: none.
    int cheap() const { return cheap_; }
    void set_cheap(int id);
    /// The cloud of air whose numbers are shown; -1: none.
    int cloud() const { return cloud_; }
    void set_cloud(int id);
    /// The probe whose numbers are shown; -1: none.
    int probe() const { return probe_; }
    void set_probe(int id);
    /// The piece of a flat stage that is edited.
    const flat::Piece& piece() const { return piece_; }
    void set_piece(const flat::Piece& piece);
    bool has_light(int id) const;
    bool has_object(int object) const;

    void set(std::vector<int> lights, std::vector<int> objects);
    void set_lights(std::vector<int> lights) { set(std::move(lights), {}); }
    void set_objects(std::vector<int> objects) { set({}, std::move(objects)); }
    /// Takes in what is not selected; if all of it is, lets it go.
    void toggle(const std::vector<int>& lights, const std::vector<int>& objects);
    void clear() { set({}, {}); }
    /// Of a scene file's other state: objects are found again by their ids.
    void keep_ids();

signals:
    void changed();
    void cloud_changed();
    void probe_changed();

private:
    void drop_what_is_gone();
    Document& document_;
    std::vector<int> lights_, objects_;
    std::vector<std::string> ids_; // of objects_
    int cheap_ = -1, cloud_ = -1, probe_ = -1;
    flat::Piece piece_;
};

} // namespace mirolux::app
