// How LAS and LAZ are written: fields that pages of exports and deliverables share.

#pragma once

#include <QObject>

#include "app/look/lengths.h"
#include "core/io/cloud_io.h"

class QComboBox;
class QDoubleSpinBox;
class QFormLayout;
class QWidget;

namespace pristine::app {

class LasFields : public QObject {
    Q_OBJECT
  public:
    /// Adds its rows to the form. Names of the fields begin with `prefix`.
    LasFields(const QString& prefix, QWidget* side, QFormLayout*);
    io::LasOptions options(const Lengths&) const;
    /// Classes as the sources have them, not as they were decided.
    bool source_classes() const;
    void set_visible(bool);
    void set_unit(const Lengths&);
    /// What was chosen for this format last time, and keeping it. Nothing is signalled.
    void recall(const QString& format);
    void remember(const QString& format) const;

  signals:
    void changed();

  private:
    QFormLayout* form_;
    QComboBox *point_format_, *classes_;
    QDoubleSpinBox* step_;
};

}  // namespace pristine::app
