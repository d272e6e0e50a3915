#include "app/cloud_row.h"
#include <QGridLayout>
#include <QPushButton>
#include <QVBoxLayout>

namespace mirolux::app {

namespace {

constexpr NumberField::Range place{-1e5, 1e5, 0.02, 2, false}, across{0.1, 1000, 0.02, 2, true};

#define TEXT(words) QT_TRANSLATE_NOOP("mirolux::app::CloudRow", words)
#define PART(member, axis)                                                                                             \
    component<AirVolume, &AirVolume::member, axis>, put_component<AirVolume, &AirVolume::member, axis>
const ThingNumber<AirVolume> cloudNumbers[] = {
    {TEXT("Middle, m"), TEXT("cloud x"), "", place, TEXT("x in metres."), PART(center, 0)},
    {TEXT("Middle, m"), TEXT("cloud y"), "", place, TEXT("y in metres."), PART(center, 1)},
    {TEXT("Middle, m"), TEXT("cloud z"), "", place, TEXT("z in metres."), PART(center, 2)},
    {TEXT("Size, m"), TEXT("cloud width"), "", across, TEXT("Metres across, along its own x."), PART(size, 0)},
    {TEXT("Size, m"), TEXT("cloud height"), "", across, TEXT("Metres high."), PART(size, 1)},
    {TEXT("Size, m"), TEXT("cloud depth"), "", across, TEXT("Metres across, along its own z."), PART(size, 2)},
    {TEXT("Extinction, falloff"),
     TEXT("cloud extinction"),
     "1/m",
     {0, 20, 0.02, 3, true},
     TEXT("Share of light that a metre of its middle takes away."),
     [](const AirVolume& v) { return double(v.extinction); },
     [](AirVolume& v, double x) { v.extinction = static_cast<float>(x); }},
    {TEXT("Extinction, falloff"),
     TEXT("cloud falloff"),
     "m",
     {0, 100, 0.02, 2, true},
     TEXT("Metres from its side to where it is whole."),
     [](const AirVolume& v) { return double(v.falloff); },
     [](AirVolume& v, double x) { v.falloff = static_cast<float>(x); }},
    {TEXT("Noise, patches"),
     TEXT("cloud noise"),
     "",
     {0, 1, 0.005, 2, false},
     TEXT("How far drifting patches tear it: 0 is even."),
     [](const AirVolume& v) { return double(v.noise); },
     [](AirVolume& v, double x) { v.noise = static_cast<float>(x); }},
    {TEXT("Noise, patches"),
     TEXT("cloud grain"),
     "m",
     {0.05, 100, 0.02, 2, true},
     TEXT("Metres across a patch."),
     [](const AirVolume& v) { return double(v.grain); },
     [](AirVolume& v, double x) { v.grain = static_cast<float>(x); }},
    {TEXT("Turn, drift"),
     TEXT("cloud turn"),
     "\u00b0",
     {-180, 180, 0.5, 0, false},
     TEXT("About the vertical."),
     [](const AirVolume& v) { return double(glm::degrees(v.turn)); },
     [](AirVolume& v, double x) { v.turn = glm::radians(static_cast<float>(x)); }},
    {TEXT("Turn, drift"),
     TEXT("cloud drift"),
     "m/s",
     {-20, 20, 0.02, 2, false},
     TEXT("How fast its patches move, along x."),
     [](const AirVolume& v) { return double(v.drift.x); },
     [](AirVolume& v, double x) { v.drift.x = static_cast<float>(x); }},
};
#undef PART
#undef TEXT

} // namespace

CloudRow::CloudRow(Document& document, Selection& selection, QWidget* parent)
    : QWidget(parent), document_(document), selection_(&selection) {
    auto* column = new QVBoxLayout(this);
    column->setContentsMargins(0, 4, 0, 0);
    column->setSpacing(4);
    list_ = new QListWidget(this);
    list_->setObjectName("clouds");
    list_->setAccessibleName(tr("Clouds of air"));
    list_->setToolTip(tr("Clouds of air in volumes of their own; a tick switches one."));
    list_->setFixedHeight(64);
    column->addWidget(list_);
    auto* buttons = new QGridLayout;
    buttons->setSpacing(4);
    auto* holder = new QWidget(this);
    holder->setLayout(buttons);
    buttons->setContentsMargins(0, 0, 0, 0);
    add_button(buttons, 3, tr("Box cloud"), "add cloud box", tr("A box of air, six metres before the camera."),
               [this] { add_cloud(VolumeShape::box); });
    add_button(buttons, 3, tr("Ball cloud"), "add cloud ball", tr("A ball of air, six metres before the camera."),
               [this] { add_cloud(VolumeShape::sphere); });
    delete_ = add_button(buttons, 3, tr("Delete cloud"), "delete cloud",
                         tr("Deletes the chosen cloud; undo brings it back."), [this] {
                             const int id = chosen();
                             document_.edit(tr("delete cloud"), [id](Project& p) {
                                 std::erase_if(p.volumes, [id](const AirVolume& v) { return v.id == id; });
                             });
                         });
    column->addWidget(holder);
    rows_ = new BenchRows(this);
    column->addWidget(rows_);
    numbers_ = std::make_unique<ThingNumbers<AirVolume>>(
        rows_, cloudNumbers, "mirolux::app::CloudRow", document_,
        [this](const QString& what, const std::function<void(AirVolume&)>& put) { change(what, put); });
    connect(list_, &QListWidget::currentRowChanged, this, [this] { fill(); });
    connect(list_, &QListWidget::itemChanged, this, [this](QListWidgetItem* item) {
        if (filling_) return;
        const int id = item->data(Qt::UserRole).toInt();
        const bool on = item->checkState() == Qt::Checked;
        document_.edit_cloud(on ? tr("switch cloud on") : tr("switch cloud off"), id,
                             [on](AirVolume& v) { v.enabled = on; });
    });
    connect(&document_, &Document::changed, this, &CloudRow::fill);
    connect(&document_, &Document::opened, this, &CloudRow::fill);
}

int CloudRow::chosen() const {
    return chosen_thing(list_);
}

void CloudRow::add_cloud(VolumeShape shape) {
    AirVolume v;
    const Camera& c = document_.project().view.camera;
    v.shape = shape;
    v.center = c.eye + 6.0f * glm::normalize(c.aim - c.eye);
    v.id = free_id(document_.project().volumes);
    v.name = (shape == VolumeShape::box ? "box of air " : "ball of air ") + std::to_string(v.id + 1);
    document_.edit(tr("add cloud"), [&](Project& p) { p.volumes.push_back(v); });
    list_->setCurrentRow(list_->count() - 1);
}

void CloudRow::change(const QString& what, const std::function<void(AirVolume&)>& change) {
    const int id = chosen();
    document_.edit_cloud(what, id, change, document_.interactive() ? what + QString::number(id) : QString());
}

void CloudRow::showEvent(QShowEvent* e) {
    QWidget::showEvent(e);
    fill();
}

/// Its handles go with it.
void CloudRow::hideEvent(QHideEvent* e) {
    QWidget::hideEvent(e);
    if (selection_) selection_->set_cloud(-1);
}

void CloudRow::fill() {
    if (filling_ || !document_.is_open()) return;
    const bool shown = document_.project().setup.choice("air.kind") == "froxels";
    setVisible(shown);
    if (!shown) return;
    filling_ = true;
    const std::vector<AirVolume>& clouds = document_.project().volumes;
    show_things(list_, clouds);
    const int id = chosen();
    const auto it = std::find_if(clouds.begin(), clouds.end(), [id](const AirVolume& v) { return v.id == id; });
    list_->setVisible(!clouds.empty());
    delete_->setEnabled(it != clouds.end());
    rows_->setVisible(it != clouds.end());
    if (it != clouds.end()) numbers_->show(*it);
    filling_ = false;
    if (isVisible()) selection_->set_cloud(id);
}

} // namespace mirolux::app
