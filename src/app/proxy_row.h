#pragma once
#include "app/document.h"
#include <QLabel>
#include <QPushButton>
#include <QWidget>

namespace mirolux::app {

/// Boxes that cast in place of dear objects: how many, for what, and what is done with them.
class ProxyRow : public QWidget {
    Q_OBJECT
public:
    explicit ProxyRow(Document& document, QWidget* parent = nullptr);
    void set_drawing(bool on) { draw_->setChecked(on); }

signals:
    void draw_wanted(bool on);
    void against_wanted(); // B: the same without proxies

protected:
    void showEvent(QShowEvent*) override;

private:
    void fill();

    Document& document_;
    QLabel* facts_;
    QPushButton *draw_, *against_, *all_;
};

} // namespace mirolux::app
