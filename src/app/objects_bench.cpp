#include "app/objects_bench.h"
#include "app/bench_rows.h"
#include "app/benches.h"
#include "app/group_row.h"
#include "app/number_field.h"
#include "app/object_marks.h"
#include "app/theme.h"
#include "app/thing_row.h"
#include "core/base/text.h"
#include <QCheckBox>
#include <QGridLayout>
#include <QHBoxLayout>
#include <QHeaderView>
#include <QLineEdit>
#include <QPainter>
#include <QPainterPath>
#include <QPushButton>
#include <QTableView>
#include <QVBoxLayout>

namespace mirolux::app {

/// 1,234 as it is; 12.3k; 4.56M.
static QString compact(std::uint64_t n) {
    if (n < 10000) return QLocale(QLocale::English).toString(static_cast<qulonglong>(n));
    const double k = double(n) / 1000;
    if (k < 1000) return QString::number(k, 'f', k < 100 ? 1 : 0) + "k";
    return QString::number(k / 1000, 'f', k < 10000 ? 2 : 1) + "M";
}

/// Of the scene file by its id, of what is built by its name.
static QString name_in_list(const ObjectRow& r) {
    return QString::fromStdString(r.id.starts_with("made ") ? r.name : r.id);
}

/// A wave for what a clip moves, an arrow for what a hand has placed, nothing for what stands as it was.
static QPixmap sign_of(Moves moves) {
    static std::map<std::pair<Moves, QRgb>, QPixmap> drawn;
    QPixmap& p = drawn[{moves, theme().quiet.rgb()}];
    if (!p.isNull()) return p;
    p = QPixmap(10, 12);
    p.fill(Qt::transparent);
    QPainter painter(&p);
    painter.setRenderHint(QPainter::Antialiasing);
    painter.setPen(QPen(theme().quiet, 1.4));
    if (moves == Moves::byClip) {
        QPainterPath wave;
        wave.moveTo(0.7, 6);
        wave.cubicTo(2.8, -1, 4, 13, 5.2, 6);
        wave.cubicTo(6.4, 1, 7.6, 11, 9.3, 6);
        painter.drawPath(wave);
    } else if (moves == Moves::byHand) {
        painter.drawLine(QPointF(1, 10), QPointF(8.5, 2.5));
        painter.drawPolyline(QPolygonF({QPointF(4, 2.5), QPointF(8.5, 2.5), QPointF(8.5, 7)}));
    }
    return p;
}

void ObjectTable::set_rows(std::vector<ObjectRow> rows, bool counted) {
    beginResetModel();
    rows_ = std::move(rows);
    counted_ = counted;
    arrange();
    endResetModel();
}

void ObjectTable::find(const QString& pattern) {
    beginResetModel();
    pattern_ = pattern.trimmed().toStdString();
    arrange();
    endResetModel();
}

void ObjectTable::sort(int column, Qt::SortOrder order) {
    beginResetModel();
    column_ = column;
    order_ = order;
    arrange();
    endResetModel();
}

void ObjectTable::arrange() {
    const ObjectOrder by = column_ == triangles     ? ObjectOrder::triangles
                           : column_ == fragments   ? ObjectOrder::fragments
                           : column_ == evaluations ? ObjectOrder::evaluations
                                                    : ObjectOrder::name;
    shown_ = ordered(rows_, by);
    std::erase_if(shown_, [&](std::size_t i) {
        return !pattern_.empty() && !name_matches(rows_[i].name, pattern_) && !name_matches(rows_[i].id, pattern_);
    });
    if ((order_ == Qt::DescendingOrder) == (by == ObjectOrder::name)) std::reverse(shown_.begin(), shown_.end());
}

int ObjectTable::row_of(int object) const {
    const auto it = std::find(shown_.begin(), shown_.end(), static_cast<std::size_t>(object));
    return it == shown_.end() ? -1 : static_cast<int>(it - shown_.begin());
}

int ObjectTable::rowCount(const QModelIndex& parent) const {
    return parent.isValid() ? 0 : static_cast<int>(shown_.size());
}
int ObjectTable::columnCount(const QModelIndex&) const {
    return columns;
}

QVariant ObjectTable::data(const QModelIndex& index, int role) const {
    const ObjectRow& r = rows_[shown_[static_cast<std::size_t>(index.row())]];
    const bool number = index.column() != name;
    switch (role) {
    case Qt::DisplayRole:
        switch (index.column()) {
        case name:
            return name_in_list(r);
        case triangles:
            return compact(r.triangles);
        case fragments:
            return !counted_ ? QString("\u2026") : r.inView ? compact(r.fragments) : QString("\u2013");
        default:
            return !counted_ ? QString("\u2026") : r.inView ? compact(r.evaluations) : QString("\u2013");
        }
    case Qt::TextAlignmentRole:
        return QVariant(number ? Qt::AlignRight | Qt::AlignVCenter : Qt::AlignLeft | Qt::AlignVCenter);
    case Qt::DecorationRole:
        return number || r.moves == Moves::still ? QVariant() : QVariant(sign_of(r.moves));
    case Qt::FontRole: {
        QFont font;
        font.setStrikeOut(r.hidden);
        return font;
    }
    case Qt::ToolTipRole:
        return tr("%1, of %2: %L3 triangles; in this view %L4 fragments and %L5 light evaluations, %6 % of all%7%8")
            .arg(QString::fromStdString(r.id), QString::fromStdString(r.material.empty() ? "no material" : r.material))
            .arg(static_cast<qulonglong>(r.triangles))
            .arg(static_cast<qulonglong>(r.fragments))
            .arg(static_cast<qulonglong>(r.evaluations))
            .arg(r.costShare * 100, 0, 'f', 1)
            .arg(r.hidden ? tr("; hidden") : QString())
            .arg(r.moves == Moves::still ? tr("; stands still") : tr("; moves %1").arg(word(r.moves)));
    default:
        return {};
    }
}

QVariant ObjectTable::headerData(int section, Qt::Orientation orientation, int role) const {
    if (orientation != Qt::Horizontal) return {};
    if (role == Qt::TextAlignmentRole) return QVariant(section == name ? Qt::AlignLeft : Qt::AlignRight);
    if (role == Qt::ToolTipRole)
        return QStringList{tr("The object's id: its node's name, with a number where there are several."),
                           tr("Triangles of the object."), tr("Fragments shaded for it in this view, hidden ones too."),
                           tr("Lights taken up for its fragments: what it costs in shading.")}[section];
    if (role != Qt::DisplayRole) return {};
    const QString label = QStringList{tr("object"), tr("triangles"), tr("fragments"), tr("evaluations")}[section];
    return section == column_ ? (order_ == Qt::DescendingOrder ? "\u2193 " : "\u2191 ") + label : label;
}

ObjectsBench::ObjectsBench(Document& document, Selection& selection, QWidget* parent)
    : QWidget(parent), document_(document), selection_(selection) {
    auto* column = bench_column(this, tr("Objects"));
    count_ = quiet_label({}, this);
    column->addWidget(count_);
    auto* search = new QHBoxLayout;
    search->setSpacing(4);
    find_ = new QLineEdit(this);
    find_->setObjectName("find objects");
    find_->setAccessibleName(tr("Find objects"));
    find_->setPlaceholderText(tr("Find: a part, or * and ?"));
    find_->setClearButtonEnabled(true);
    find_->setToolTip(tr("Shows the objects whose name matches; Enter selects them all."));
    search->addWidget(find_, 1);
    taken_ = new QPushButton(tr("Select found"), this);
    taken_->setObjectName("select found");
    taken_->setToolTip(tr("Selects all objects that are listed."));
    search->addWidget(taken_);
    column->addLayout(search);
    table_ = new ObjectTable(this);
    view_ = new QTableView(this);
    view_->setObjectName("objects");
    view_->setAccessibleName(tr("Objects with their costs"));
    view_->setModel(table_);
    view_->setSelectionBehavior(QAbstractItemView::SelectRows);
    view_->setSelectionMode(QAbstractItemView::ExtendedSelection);
    view_->setShowGrid(false);
    view_->setWordWrap(false);
    view_->setIconSize({10, 12});
    view_->verticalHeader()->hide();
    view_->verticalHeader()->setDefaultSectionSize(19);
    view_->setMinimumHeight(180);
    view_->horizontalHeader()->setSectionResizeMode(ObjectTable::name, QHeaderView::Stretch);
    for (const int c : {ObjectTable::triangles, ObjectTable::fragments, ObjectTable::evaluations}) {
        view_->horizontalHeader()->setSectionResizeMode(c, QHeaderView::Fixed);
        view_->setColumnWidth(c, c == ObjectTable::evaluations ? 84 : c == ObjectTable::fragments ? 66 : 58);
    }
    view_->setFont(sized(font(), 11));
    view_->horizontalHeader()->setFont(sized(font(), 11));
    view_->horizontalHeader()->setHighlightSections(false);
    view_->horizontalHeader()->setSortIndicatorShown(false);
    view_->setSortingEnabled(true);
    view_->sortByColumn(ObjectTable::evaluations, Qt::DescendingOrder);
    column->addWidget(view_, 1);
    column->addWidget(new GroupRow(document_, selection_, this));

    selected_ = new QWidget(this);
    auto* below = new QVBoxLayout(selected_);
    below->setContentsMargins(0, 0, 0, 0);
    below->setSpacing(6);
    facts_ = new QLabel(selected_);
    facts_->setObjectName("object facts");
    facts_->setWordWrap(true);
    below->addWidget(facts_);
    auto* rows = rows_ = new BenchRows(selected_);
    place_fields();
    rows->add(tr("Middle, m"), {place_[0], place_[1], place_[2]});
    rows->add(tr("Turn by"), {turn_[0], turn_[1], turn_[2]});
    rows->add(tr("Size by"), {size_});
    marks_ = new ObjectMarks(
        document_, selection_, *rows,
        [this](const QString& label, const ObjectMarks::Mark& mark) {
            place_by(label, {}, [&mark](ObjectEdit& e, const ObjectEdit&) { mark(e); });
        },
        selected_);
    auto* snaps = new QWidget(selected_);
    auto* snapRow = new QHBoxLayout(snaps);
    snapRow->setContentsMargins(0, 0, 0, 0);
    snapRow->setSpacing(6);
    const auto snap = [&](const QString& name, double high, const QString& unit, const QString& help) {
        auto* f = new NumberField({0, high, high / 200, unit == "m" ? 2 : 0, false}, unit, snaps);
        f->setObjectName(name);
        f->setAccessibleName(name);
        f->setToolTip(help);
        f->set_value(0);
        f->set_default(0);
        f->set_word_for(0, tr("free"));
        connect(f, &NumberField::edited, this, [this, f](double v) {
            f->set_value(v);
            emit_snap();
        });
        snapRow->addWidget(f);
        return f;
    };
    grid_ = snap("snap grid", 10, "m",
                 tr("Drags stop where the foot lies on a grid of so many metres, and where sides are so long."));
    angle_ = snap("snap angle", 90, "\u00b0", tr("Turns stop at whole multiples."));
    surface_ = new QCheckBox(tr("surface"), snaps);
    surface_->setObjectName("snap surface");
    surface_->setToolTip(tr("Moved on the ground it stands on whatever the pointer meets."));
    connect(surface_, &QCheckBox::toggled, this, &ObjectsBench::emit_snap);
    snapRow->addWidget(surface_);
    rows->add(tr("Snap to"), {snaps});
    things_ = new ThingRow(document_, selection_, selected_);
    below->addWidget(things_);
    below->addWidget(rows);
    auto* buttons = new QGridLayout; // two in a row: four would make the bench wider than its place
    buttons->setSpacing(4);
    const auto button = [&](const QString& text, const QString& name, const QString& help,
                            const std::function<void()>& run) { return add_button(buttons, 2, text, name, help, run); };
    hide_ = button(
        tr("Hide"), "hide objects", tr("Not drawn any more: costs nothing, hides and reflects nothing (H)."), [this] {
            const bool hide = hide_->text() == tr("Hide");
            place_by(hide ? tr("hide") : tr("show"), {}, [hide](ObjectEdit& e, const ObjectEdit&) { e.hidden = hide; });
        });
    back_ = button(tr("Put back"), "put back", tr("As the scene file has it: place, turn, size, and shown."), [this] {
        place_by(tr("put back"), {}, [](ObjectEdit& e, const ObjectEdit& start) {
            if (!start.proxy && !start.id.starts_with("made ")) e = ObjectEdit{start.id, start.name};
        });
    });
    button(tr("Off here"), "objects off here",
           tr("Hidden on the chosen target alone, or shown again: what a weaker device does without (Shift+O)."),
           [this] { emit off_here_wanted(); });
    standIn_ = button(tr("Box instead"), "stand in",
                      tr("Boxes fitted around it cast in its place, for a fraction of the triangles (N)."),
                      [this] { emit stand_in_wanted(); });
    button(tr("Duplicate"), "duplicate objects",
           tr("A copy beside it (Ctrl+D); of an object of the scene file, one that is drawn like it."),
           [this] { emit duplicate_wanted(); });
    delete_ = button(tr("Delete"), "delete objects", tr("Takes what was built out of the scene (Del)."),
                     [this] { emit delete_wanted(); });
    priceOf_ = button(tr("What it costs"), "price objects",
                      tr("Measures the frame with it and without it in turn, beside the window (Shift+Q)."),
                      [this] { emit price_wanted(); });
    button(tr("Centre"), "centre objects", tr("Moves the camera so that they fill the picture (C)."),
           [this] { emit frame_wanted(); });
    below->addLayout(buttons);
    price_ = quiet_label({}, selected_);
    price_->setObjectName("object price");
    price_->hide();
    below->addWidget(price_);
    column->addWidget(selected_);
    auto* back = new QPushButton(tr("Back to the scene"), this);
    back->setObjectName("back to the scene");
    back->setToolTip(tr("Clears the selection (X)."));
    connect(back, &QPushButton::clicked, this, &ObjectsBench::back_wanted);
    column->addWidget(back);

    connect(find_, &QLineEdit::textChanged, this, [this](const QString& text) {
        following_ = true;
        table_->find(text);
        following_ = false;
        follow_selection();
        fill();
    });
    const auto take_found = [this] {
        std::vector<int> objects;
        for (int r = 0; r < table_->rowCount(); ++r)
            objects.push_back(table_->object(r));
        selection_.set_objects(std::move(objects));
    };
    connect(find_, &QLineEdit::returnPressed, this, take_found);
    connect(taken_, &QPushButton::clicked, this, take_found);
    connect(view_->selectionModel(), &QItemSelectionModel::selectionChanged, this, [this] {
        if (following_) return;
        following_ = true; // the rows are right already
        std::vector<int> objects;
        for (const QModelIndex& i : view_->selectionModel()->selectedRows())
            objects.push_back(table_->object(i.row()));
        selection_.set(selection_.lights(), std::move(objects));
        following_ = false;
    });
    connect(table_, &QAbstractItemModel::modelReset, this, &ObjectsBench::follow_selection);
    connect(&selection_, &Selection::changed, this, [this] {
        follow_selection();
        fill();
    });
    connect(&document_, &Document::opened, this, [this] {
        ledger_.reset();
        table_->set_rows(object_rows(document_.scene()), false);
    });
    connect(&document_, &Document::reloaded, this, [this] {
        ledger_.reset();
        table_->set_rows(object_rows(document_.scene()), false);
    });
    connect(&document_, &Document::rebuilt, this, [this] {
        ledger_.reset();
        if (isVisible()) table_->set_rows(object_rows(document_.scene()), false);
    });
    connect(&document_, &Document::changed, this, &ObjectsBench::fill);
    fill();
}

void ObjectsBench::emit_snap() {
    Snap s;
    s.grid = static_cast<float>(grid_->value());
    s.angle = glm::radians(static_cast<float>(angle_->value()));
    s.surface = surface_->isChecked();
    emit snap_wanted(s);
}

void ObjectsBench::end_price() {
    priceOf_->setText(tr("What it costs"));
    if (price_->text().endsWith('%')) show_price({}, false); // it was stopped
}

void ObjectsBench::show_price(const QString& words, bool running) {
    price_->setText(words);
    price_->setVisible(!words.isEmpty());
    priceOf_->setText(running ? tr("Stop") : tr("What it costs"));
    if (!words.isEmpty()) reveal(price_);
}

NumberField* ObjectsBench::field(const QString& name, const QString& unit, const QString& help) {
    const bool place = name.startsWith("middle"), size = name == "size by";
    auto* f = new NumberField(place  ? NumberField::Range{-1e4, 1e4, 0.02, 2, false}
                              : size ? NumberField::Range{1, 1000, 0.01, 0, true}
                                     : NumberField::Range{-180, 180, 0.5, 0, false},
                              unit, selected_);
    f->setObjectName(name);
    f->setAccessibleName(name);
    f->setToolTip(help);
    return f;
}

/// Middle of what is selected, and two kinds of numbers that go back to where they were: turns and sizes.
void ObjectsBench::place_fields() {
    static const char* axes[] = {"x", "y", "z"};
    const auto begin = [this](NumberField* f, double rest, bool on) {
        starts_.clear();
        document_.set_interactive(on);
        if (!on) f->set_value(rest);
    };
    for (int k = 0; k < 3; ++k) {
        place_[k] = field(QString("middle %1").arg(axes[k]), "",
                          tr("%1 of the middle of what is selected; the rest moves along.").arg(axes[k]));
        connect(place_[k], &NumberField::scrubbing, this, [this](bool on) {
            starts_.clear();
            document_.set_interactive(on);
            fill();
        });
        connect(place_[k], &NumberField::edited, this, [this, k](double v) {
            place_by(tr("move"), QString("middle %1").arg(k), [&](ObjectEdit& e, const ObjectEdit& start) {
                Placement p;
                p.move[k] = static_cast<float>(v) - startMiddle_[k];
                e = placed_by(start, p);
            });
        });
        turn_[k] = field(QString("turn %1").arg(axes[k]), "\u00b0",
                         tr("Turns what is selected about %1 through its middle.").arg(axes[k]));
        turn_[k]->set_value(0);
        turn_[k]->set_default(0);
        connect(turn_[k], &NumberField::scrubbing, this, [begin, f = turn_[k]](bool on) { begin(f, 0, on); });
        connect(turn_[k], &NumberField::edited, this, [this, k](double v) {
            place_by(tr("turn"), QString("turn %1").arg(k), [&](ObjectEdit& e, const ObjectEdit& start) {
                Placement p;
                p.pivot = startMiddle_;
                glm::vec3 axis(0.0f);
                axis[k] = 1.0f;
                p.turn = glm::angleAxis(glm::radians(static_cast<float>(v)), axis);
                e = placed_by(start, p);
            });
            if (!document_.interactive()) turn_[k]->set_value(0);
        });
    }
    size_ = field("size by", "%", tr("Sizes what is selected about its middle."));
    size_->set_value(100);
    size_->set_default(100);
    connect(size_, &NumberField::scrubbing, this, [begin, f = size_](bool on) { begin(f, 100, on); });
    connect(size_, &NumberField::edited, this, [this](double v) {
        place_by(tr("size"), "size", [&](ObjectEdit& e, const ObjectEdit& start) {
            Placement p;
            p.pivot = startMiddle_;
            p.size = static_cast<float>(v / 100);
            e = placed_by(start, p);
        });
        if (!document_.interactive()) size_->set_value(100);
    });
}

static glm::vec3 middle_of(const Scene& scene, const std::vector<int>& objects) {
    Box box;
    for (const int o : objects)
        box.add(scene.objects()[static_cast<std::size_t>(o)].bounds);
    return box.empty() ? glm::vec3(0.0f) : box.center();
}

void ObjectsBench::place_by(const QString& label, const QString& merge,
                            const std::function<void(ObjectEdit&, const ObjectEdit&)>& change) {
    const std::vector<int>& objects = selection_.objects();
    if (objects.empty()) return;
    if (starts_.empty()) {
        startMiddle_ = middle_of(document_.scene(), objects);
        for (const int o : objects)
            starts_.push_back(document_.object_edit(o));
    }
    std::vector<ObjectEdit> edits = starts_;
    for (std::size_t i = 0; i < edits.size(); ++i)
        change(edits[i], starts_[i]);
    const QString what =
        edits.size() == 1 ? QString::fromStdString(edits.front().name) : tr("%1 objects").arg(edits.size());
    if (!document_.interactive()) starts_.clear();
    document_.edit_objects(tr("%1: %2").arg(what, label), edits, document_.interactive() ? merge : QString());
}

void ObjectsBench::show_costs(const Ledger& ledger) {
    ledger_ = ledger;
    table_->set_rows(ledger.objects, true);
    fill();
}

void ObjectsBench::set_stale() {
    if (!ledger_) return;
    ledger_.reset();
    fill();
}

/// The table's rows are those of the selection; the last one is brought into view.
void ObjectsBench::follow_selection() {
    if (following_) return;
    following_ = true;
    QItemSelection rows;
    int last = -1;
    for (const int o : selection_.objects())
        if (const int r = table_->row_of(o); r >= 0) {
            rows.select(table_->index(r, 0), table_->index(r, ObjectTable::columns - 1));
            last = r;
        }
    if (view_->selectionModel()->selection() != rows)
        view_->selectionModel()->select(rows, QItemSelectionModel::ClearAndSelect);
    if (last >= 0) view_->scrollTo(table_->index(last, 0));
    following_ = false;
}

void ObjectsBench::showEvent(QShowEvent* e) {
    QWidget::showEvent(e);
    fill();
    follow_selection(); // a view that was not shown could not scroll
}

/// True of a shape that has none of the scene's.
static bool own_material(const Scene& scene, const Object& o) {
    return scene.asset->file && scene.asset->material_index(o) + 1 >= scene.asset->file->materials.size() &&
           scene.asset->material_index(o) + 1 < scene.asset->materials.size() &&
           scene.asset->material_of(o).name == "own";
}

void ObjectsBench::fill() {
    if (!document_.is_open() || !isVisible()) return; // filled when it is shown
    if (table_->all() != static_cast<std::size_t>(document_.object_count()) && !following_) {
        table_->set_rows(object_rows(document_.scene()), false); // proxies have come or gone
        follow_selection();
    }
    const auto& objects = selection_.objects();
    const std::size_t edited = document_.project().objects.size();
    count_->setText(tr("%L1 objects, %L2 listed%3. Click one here or in the picture; Ctrl-drag takes several.")
                        .arg(table_->all())
                        .arg(table_->rowCount())
                        .arg(edited ? tr(", %1 edited").arg(edited) : QString()));
    taken_->setEnabled(table_->rowCount() > 0);
    selected_->setVisible(!objects.empty());
    if (objects.empty()) return;
    const Scene scene = document_.scene();
    std::uint64_t triangles = 0;
    bool anyShown = false, anyEdited = false;
    for (const int o : objects) {
        const Object& object = scene.objects()[static_cast<std::size_t>(o)];
        triangles += scene.asset->primitives[static_cast<std::size_t>(object.primitive)].indices.size() / 3;
        anyShown = anyShown || !object.hidden;
    }
    const auto edits = document_.project().objects;
    for (const int o : objects)
        anyEdited = anyEdited || !document_.object_edit(o).idle();
    const ObjectName lead = document_.object_name(objects.back());
    const Object& leading = scene.objects()[static_cast<std::size_t>(objects.back())];
    QString text =
        objects.size() == 1
            ? tr("<b>%1</b>, %2")
                  .arg(QString::fromStdString(lead.thing >= 0 ? lead.name : lead.id).toHtmlEscaped(),
                       leading.proxy ? tr("a box that only casts")
                       : own_material(scene, leading)
                           ? tr("a material of its own")
                           : QString::fromStdString(scene.asset->material_of(leading).name).toHtmlEscaped())
            : (document_.is_proxy(objects.front()) && document_.is_proxy(objects.back()) ? tr("<b>%L1 proxies</b>")
                                                                                         : tr("<b>%L1 objects</b>"))
                  .arg(objects.size());
    text += tr(", %L1 triangles").arg(static_cast<qulonglong>(triangles));
    if (objects.size() == 1) {
        const glm::vec3 s = leading.bounds.size();
        text += tr(", %1 x %2 x %3 m").arg(s.x, 0, 'g', 3).arg(s.y, 0, 'g', 3).arg(s.z, 0, 'g', 3);
        const ObjectEdit e = document_.object_edit(objects.front());
        QStringList changes;
        const float angle = glm::degrees(glm::angle(e.rotation));
        if (angle > 0.05f) changes << tr("turned %1\u00b0").arg(std::min(angle, 360 - angle), 0, 'f', 0);
        if (e.scale != glm::vec3(1.0f))
            changes << tr("sized %1 %").arg(100 * std::cbrt(e.scale.x * e.scale.y * e.scale.z), 0, 'f', 0);
        if (e.hidden) changes << tr("hidden");
        changes += ObjectMarks::words_of(e);
        if (changes.isEmpty() && !e.idle()) changes << tr("moved");
        if (!changes.isEmpty()) text += ": " + changes.join(", ");
    }
    facts_->setText(text);
    const glm::vec3 middle = middle_of(scene, objects);
    for (int k = 0; k < 3; ++k)
        place_[k]->set_value(middle[k]);
    const bool proxies = document_.is_proxy(objects.back());
    rows_->show_what_applies();
    marks_->fill();
    things_->fill();
    const bool built = std::any_of(objects.begin(), objects.end(),
                                   [this](int o) { return thing_of(*document_.asset(), o) != nullptr; });
    delete_->setEnabled(built || proxies);
    standIn_->setEnabled(!proxies);
    hide_->setText(anyShown ? tr("Hide") : tr("Show"));
    back_->setEnabled(anyEdited && !proxies); // the file has no place for a proxy
}

} // namespace mirolux::app
