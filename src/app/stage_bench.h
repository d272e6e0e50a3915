#pragma once
#include "app/bench_rows.h"
#include "app/selection.h"
#include "app/setting_editor.h"
#include <QLabel>
#include <QListWidget>

class QCheckBox;
class QComboBox;
class QLineEdit;
class QPushButton;

namespace mirolux::app {

/// Scene, of a flat stage: its sprites by layer and its walls; of the one that is selected every field.
class StageBench : public QWidget {
    Q_OBJECT
public:
    StageBench(Document& document, Selection& selection, QWidget* parent = nullptr);
    /// A copy of the selected piece beside it, selected; or the piece taken off the stage.
    void duplicate_piece();
    void erase_piece();

private:
    void fill();
    void fill_list();
    void fill_piece();
    const flat::Sprite& sprite() const; // the selected one, or one of defaults
    const flat::Wall& wall() const;
    bool is(flat::PieceKind kind) const { return selection_.piece().kind == kind; }
    void edit_sprite(const QString& what, const std::function<void(flat::Sprite&)>& change, const QString& merge = {});
    void edit_wall(const QString& what, const std::function<void(flat::Wall&)>& change, const QString& merge = {});
    NumberField* number(const QString& name, const NumberField::Range& range, const QString& unit, const QString& help,
                        double (*get)(const flat::Sprite&), void (*put)(flat::Sprite&, double));
    void add_rows();
    Document& document_;
    Selection& selection_;
    QLabel *facts_, *about_;
    QLineEdit *filter_, *name_;
    QListWidget *list_, *cameras_;
    QWidget* piece_;
    BenchRows* rows_;
    QComboBox* layer_;
    QCheckBox *hidden_, *receives_, *casts_;
    NumberField* height_;
    ColorSwatch *tint_, *emits_, *reflects_;
    NumberField* seconds_;
    QPushButton *duplicate_, *erase_;
    struct Number {
        NumberField* field;
        double (*get)(const flat::Sprite&);
    };
    std::vector<Number> numbers_;
    flat::WorldPtr listed_; // what the list shows
    bool filling_ = false;
};

} // namespace mirolux::app
