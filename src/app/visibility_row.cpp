#include "app/visibility_row.h"
#include "app/benches.h"
#include "app/number_field.h"
#include "core/base/text.h"
#include "core/visibility/door_place.h"
#include "core/visibility/rooms.h"
#include <QHBoxLayout>
#include <QLabel>
#include <QPushButton>
#include <QVBoxLayout>

namespace mirolux::app {

VisibilityRow::VisibilityRow(Document& document, QWidget* parent)
    : QWidget(parent), document_(document), compute_(new QPushButton(this)), state_(quiet_label({}, this)),
      doorPart_(new QWidget(this)), task_([] {}) {
    auto* column = new QVBoxLayout(this);
    column->setContentsMargins(0, 6, 0, 0);
    column->setSpacing(4);
    compute_->setObjectName("compute visibility");
    state_->setObjectName("visibility state");
    state_->setWordWrap(true);
    column->addWidget(compute_);
    column->addWidget(state_);
    auto* part = new QVBoxLayout(doorPart_);
    part->setContentsMargins(0, 2, 0, 0);
    part->setSpacing(4);
    doors_ = new QListWidget(doorPart_);
    doors_->setObjectName("doors");
    doors_->setAccessibleName(tr("Doors"));
    doors_->setToolTip(tr("Doors between rooms, and how far they stand open; a double click opens or closes one."));
    doors_->setMaximumHeight(132);
    part->addWidget(doors_);
    part->addWidget(doorState_ = quiet_label({}, doorPart_));
    doorState_->setWordWrap(true);
    auto* rows = new BenchRows(doorPart_);
    open_ = new NumberField({0, 100, 0.5, 0, false}, "%", doorPart_);
    open_->setObjectName("door open");
    open_->setToolTip(
        tr("How far the chosen door stands open, from below; closed, nothing behind it is drawn and no lamp "
           "there shines."));
    open_->set_default(100);
    rows->add(tr("Open"), {open_});
    part->addWidget(rows);
    auto* line = new QHBoxLayout;
    line->setSpacing(4);
    place_ = new QPushButton(tr("Door ahead"), doorPart_);
    place_->setObjectName("place door");
    place_->setToolTip(
        tr("Places a door in the opening that the camera looks through: it takes its width, height and turn."));
    delete_ = new QPushButton(tr("Delete"), doorPart_);
    delete_->setObjectName("delete door");
    delete_->setToolTip(tr("Takes the chosen door away: its opening joins the rooms again."));
    line->addWidget(place_);
    line->addWidget(delete_);
    part->addLayout(line);
    build_rooms(part);
    column->addWidget(doorPart_);

    connect(compute_, &QPushButton::clicked, this, [this] {
        if (computing_)
            stop_ = true;
        else
            compute();
    });
    connect(place_, &QPushButton::clicked, this, &VisibilityRow::place_door);
    connect(delete_, &QPushButton::clicked, this, [this] {
        const int id = chosen_door();
        if (id < 0) return;
        document_.edit(tr("delete a door"),
                       [&](Project& p) { std::erase_if(p.doors, [&](const Door& d) { return d.id == id; }); });
    });
    connect(doors_, &QListWidget::currentRowChanged, this, [this] {
        if (!filling_) show_state();
    });
    connect(doors_, &QListWidget::itemDoubleClicked, this,
            [this] { change_door(tr("a door"), [](Door& d) { d.open = d.open > 0.5f ? 0.0f : 1.0f; }); });
    connect(open_, &NumberField::scrubbing, this, [this](bool on) { document_.set_interactive(on); });
    connect(open_, &NumberField::edited, this, [this](double percent) {
        change_door(
            tr("a door"), [&](Door& d) { d.open = static_cast<float>(percent / 100); }, "door open");
    });
    connect(&document_, &Document::opened, this, [this] {
        stop_ = true;
        found_.clear();
    });
    connect(&document_, &Document::changed, this, &VisibilityRow::take);
    take();
}

void VisibilityRow::build_rooms(QVBoxLayout* column) {
    rooms_ = new QListWidget(doorPart_);
    rooms_->setObjectName("drawn rooms");
    rooms_->setAccessibleName(tr("Rooms drawn by hand"));
    rooms_->setToolTip(tr("Rooms drawn by hand; their sides have handles in the view from outside (K)."));
    rooms_->setMaximumHeight(76);
    column->addWidget(rooms_);
    roomNumbers_ = new QWidget(doorPart_);
    auto* inner = new QVBoxLayout(roomNumbers_);
    inner->setContentsMargins(0, 0, 0, 0);
    auto* rows = new BenchRows(roomNumbers_);
    for (int high = 0; high < 2; ++high) {
        std::vector<QWidget*> fields;
        for (int axis = 0; axis < 3; ++axis) {
            const int side = 2 * axis + high;
            auto* field = new NumberField({-10000, 10000, 0.05, 2, false}, "m", roomNumbers_);
            field->setObjectName("room side " + QString::number(side));
            field->setAccessibleName(
                tr("%1 of the room, %2")
                    .arg(high ? tr("Highest corner") : tr("Lowest corner"), QString("xyz").mid(axis, 1)));
            field->setToolTip(high ? tr("The room's highest corner, along x, y and z.")
                                   : tr("The room's lowest corner, along x, y and z."));
            connect(field, &NumberField::scrubbing, this, [this](bool on) { document_.set_interactive(on); });
            connect(field, &NumberField::edited, this, [this, side](double metres) {
                const int id = chosen_room();
                document_.edit(
                    tr("a room's side"),
                    [&](Project& p) {
                        for (DrawnRoom& r : p.drawnRooms)
                            if (r.id == id) move_side(r, side, static_cast<float>(metres));
                    },
                    QString("room %1 %2").arg(id).arg(side));
            });
            fields.push_back(sides_[side] = field);
        }
        rows->add(high ? tr("To") : tr("From"), fields);
    }
    inner->addWidget(rows);
    column->addWidget(roomNumbers_);
    auto* line = new QHBoxLayout;
    line->setSpacing(4);
    drawRoom_ = new QPushButton(tr("Room here"), doorPart_);
    drawRoom_->setObjectName("draw room");
    drawRoom_->setToolTip(
        tr("Draws a room between the walls around the camera: all free space in that box is one room, "
           "where filling from the doors would not find one."));
    deleteRoom_ = new QPushButton(tr("Delete"), doorPart_);
    deleteRoom_->setObjectName("delete room");
    deleteRoom_->setToolTip(tr("Takes the chosen room away: filling from the doors decides there again."));
    line->addWidget(drawRoom_);
    line->addWidget(deleteRoom_);
    column->addLayout(line);
    connect(drawRoom_, &QPushButton::clicked, this, &VisibilityRow::draw_room);
    connect(deleteRoom_, &QPushButton::clicked, this, [this] {
        const int id = chosen_room();
        document_.edit(tr("delete a room"), [&](Project& p) {
            std::erase_if(p.drawnRooms, [&](const DrawnRoom& r) { return r.id == id; });
        });
    });
    connect(rooms_, &QListWidget::currentRowChanged, this, [this] {
        if (!filling_) show_room();
    });
}

VisibilityRow::~VisibilityRow() {
    stop_ = true;
    task_.stop();
}

int VisibilityRow::chosen_door() const {
    const QListWidgetItem* item = doors_->currentItem();
    return item ? item->data(Qt::UserRole).toInt() : -1;
}

int VisibilityRow::chosen_room() const {
    const QListWidgetItem* item = rooms_->currentItem();
    return item ? item->data(Qt::UserRole).toInt() : -1;
}

void VisibilityRow::fill_rooms() {
    filling_ = true;
    const int before = chosen_room();
    rooms_->clear();
    for (const DrawnRoom& r : document_.project().drawnRooms) {
        const glm::dvec3 size(r.high - r.low);
        auto* item = new QListWidgetItem(tr("%1, %2 x %3 x %4 m")
                                             .arg(QString::fromStdString(r.name))
                                             .arg(size.x, 0, 'f', 1)
                                             .arg(size.y, 0, 'f', 1)
                                             .arg(size.z, 0, 'f', 1),
                                         rooms_);
        item->setData(Qt::UserRole, r.id);
        if (r.id == before) rooms_->setCurrentItem(item);
    }
    filling_ = false;
    rooms_->setVisible(rooms_->count() > 0);
    show_room();
}

void VisibilityRow::show_room() {
    const DrawnRoom* chosen = nullptr;
    for (const DrawnRoom& r : document_.project().drawnRooms)
        if (r.id == chosen_room()) chosen = &r;
    roomNumbers_->setVisible(chosen);
    deleteRoom_->setEnabled(chosen);
    for (int side = 0; chosen && side < 6; ++side)
        sides_[side]->set_value(double((side % 2 ? chosen->high : chosen->low)[side / 2]));
}

void VisibilityRow::draw_room() {
    if (!document_.is_open() || !document_.is_solid()) return;
    DrawnRoom room = room_around(document_.rays(), document_.project().doors, document_.project().view.camera.eye);
    document_.edit(tr("a room"), [&](Project& p) {
        for (const DrawnRoom& r : p.drawnRooms)
            room.id = std::max(room.id, r.id);
        ++room.id;
        room.name = "room " + std::to_string(room.id + 1);
        p.drawnRooms.push_back(room);
    });
    for (int i = 0; i < rooms_->count(); ++i)
        if (rooms_->item(i)->data(Qt::UserRole).toInt() == room.id) rooms_->setCurrentRow(i);
}

void VisibilityRow::change_door(const QString& what, const std::function<void(Door&)>& change, const QString& merge) {
    const int id = chosen_door();
    if (id < 0) return;
    document_.edit(
        what,
        [&](Project& p) {
            for (Door& d : p.doors)
                if (d.id == id) change(d);
        },
        merge.isEmpty() ? merge : merge + QString::number(id));
}

void VisibilityRow::take() {
    const bool solid = document_.is_open() && document_.is_solid();
    const VisibilityKind kind = solid ? visibility_kind(document_.project().setup) : VisibilityKind::frustum;
    const bool cells = kind == VisibilityKind::cells, portals = kind == VisibilityKind::portals;
    setVisible(cells || portals);
    if (!cells && !portals) return;
    doorPart_->setVisible(portals);
    fill_doors();
    fill_rooms();
    show_state();
}

void VisibilityRow::fill_doors() {
    filling_ = true;
    const int before = chosen_door();
    doors_->clear();
    const Scene scene = document_.scene();
    for (const Door& d : document_.project().doors) {
        const double share = open_share(scene, d);
        const QString how = share < 1e-3    ? tr("closed")
                            : share > 0.999 ? tr("open")
                                            : tr("%1 % open").arg(100 * share, 0, 'f', 0);
        auto* item = new QListWidgetItem(tr("%1, %2").arg(QString::fromStdString(d.name), how), doors_);
        item->setData(Qt::UserRole, d.id);
        if (d.id == before) doors_->setCurrentItem(item);
    }
    filling_ = false;
}

void VisibilityRow::show_state() {
    const Setup& setup = document_.project().setup;
    const bool portals = visibility_kind(setup) == VisibilityKind::portals;
    compute_->setText(computing_ ? tr("Stop") : portals ? tr("Find rooms") : tr("Compute cells"));
    compute_->setToolTip(portals
                             ? tr("Fills space from both sides of every door, beside the window.")
                             : tr("Looks from every cell by rays, beside the window; what is there already stays."));
    if (!computing_) {
        const Scene scene = document_.scene();
        std::string remark;
        QString words;
        if (portals) {
            if (const auto rooms = rooms_of(scene, setup, &remark)) {
                words = tr("%1 rooms by %2 doors, %3 KiB.")
                            .arg(rooms->rooms)
                            .arg(rooms->doors.size())
                            .arg((rooms->bytes() + 1023) / 1024);
                for (std::size_t i = 0; i < rooms->remarks.size() && i < 2; ++i)
                    words += " " + QString::fromStdString(rooms->remarks[i]);
                if (rooms->remarks.size() > 2) words += tr(" And %1 more of the kind.").arg(rooms->remarks.size() - 2);
            }
        } else if (const auto sets = cells_of(scene, setup, &remark)) {
            const VisibleSets::Count c = sets->count();
            words = tr("%1 cells: %2 objects of %3 are seen from one on the mean, %4 at most; %5 KiB.")
                        .arg(sets->cells.size())
                        .arg(c.mean, 0, 'f', 1)
                        .arg(sets->objects)
                        .arg(c.most)
                        .arg((sets->bytes() + 1023) / 1024);
            if (sets->cell_at(document_.project().view.camera.eye) < 0)
                words += tr(" The eye is in none of them: there the frustum alone holds.");
        }
        state_->setText(words.isEmpty() ? QString::fromStdString(remark) + (found_.isEmpty() ? QString() : " " + found_)
                                        : words);
    }
    const Door* chosen = nullptr;
    for (const Door& d : document_.project().doors)
        if (d.id == chosen_door()) chosen = &d;
    open_->setEnabled(chosen && chosen->object.empty());
    delete_->setEnabled(chosen);
    if (chosen) open_->set_value(100 * open_share(document_.scene(), *chosen));
    doorState_->setText(
        !chosen ? tr("Choose a door, or look through an opening and place one.")
        : chosen->object.empty()
            ? tr("%1 x %2 m.").arg(double(chosen->size.x), 0, 'f', 2).arg(double(chosen->size.y), 0, 'f', 2)
            : tr("%1 x %2 m; its leaf is %3: move that to open or close it.")
                  .arg(double(chosen->size.x), 0, 'f', 2)
                  .arg(double(chosen->size.y), 0, 'f', 2)
                  .arg(QString::fromStdString(chosen->object)));
}

void VisibilityRow::place_door() {
    if (!document_.is_open() || !document_.is_solid()) return;
    const Camera& c = document_.project().view.camera;
    std::optional<Door> door = door_ahead(document_.rays(), c.eye, c.aim - c.eye);
    if (!door) {
        emit said(tr("No opening lies ahead: look through one that is less than 8 m wide and 30 m away."));
        return;
    }
    document_.edit(tr("a door"), [&](Project& p) {
        for (const Door& d : p.doors)
            door->id = std::max(door->id, d.id);
        ++door->id;
        door->name = "door " + std::to_string(door->id + 1);
        p.doors.push_back(*door);
    });
    for (int i = 0; i < doors_->count(); ++i)
        if (doors_->item(i)->data(Qt::UserRole).toInt() == door->id) doors_->setCurrentRow(i);
}

void VisibilityRow::ended(const QString& words) {
    computing_ = false;
    found_ = words;
    take();
    emit computed();
}

void VisibilityRow::compute() {
    if (computing_ || !document_.is_open() || !document_.is_solid()) return;
    computing_ = true;
    stop_ = false;
    found_.clear();
    compute_->setText(tr("Stop"));
    state_->setText(tr("under way\u2026"));
    // From its thread to the window's.
    const auto tell = [this](auto run) { QMetaObject::invokeMethod(this, run, Qt::QueuedConnection); };
    task_.ask([this, tell, project = document_.project(), scene = document_.scene()](const NewestTask::GoesOn&) {
        const auto fails = [&](const Error& e) {
            tell([this, words = QString::fromStdString(to_text(e))] { ended(words); });
        };
        std::error_code error; // writing says what is wrong
        std::filesystem::create_directories(scene.bakes, error);
        if (visibility_kind(project.setup) == VisibilityKind::portals) {
            const auto rooms = find_rooms(scene, project.setup, &stop_);
            if (!rooms) return fails(rooms.error());
            if (auto ok = write_rooms(*rooms, rooms_file(scene.bakes, rooms->digest)); !ok) return fails(ok.error());
            return tell([this] { ended({}); });
        }
        auto wanted = wanted_cells(project, scene, project.setup);
        if (!wanted) return fails(wanted.error());
        auto bake = CellBake::begin(scene, project.setup, std::move(*wanted));
        if (!bake) return fails(bake.error());
        bool over = (*bake)->progress().done == (*bake)->progress().all;
        while (!over && !stop_) {
            const auto worked = (*bake)->work(250, &stop_);
            if (!worked) return fails(worked.error());
            over = *worked;
            tell([this, p = (*bake)->progress()] {
                if (computing_)
                    state_->setText(tr("%1 of %2 cells, %3 s to go").arg(p.done).arg(p.all).arg(p.left, 0, 'f', 0));
            });
        }
        if (auto ok = (*bake)->keep(); !ok) return fails(ok.error());
        tell([this, over, p = (*bake)->progress()] {
            ended(over ? QString() : tr("Stopped at %1 of %2 cells; it goes on from there.").arg(p.done).arg(p.all));
        });
    });
}

} // namespace mirolux::app
