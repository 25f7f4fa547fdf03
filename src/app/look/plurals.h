// English plurals of the program's own texts: "%n piece(s)" is "1 piece", "2 pieces".

#pragma once

#include <QTranslator>

namespace pristine::app {

class Plurals : public QTranslator {
    Q_OBJECT
  public:
    using QTranslator::QTranslator;
    bool isEmpty() const override { return false; }
    /// Empty, so that others are asked, for texts without a number or without "(s)".
    QString translate(const char* context, const char* text, const char* hint = nullptr,
                      int n = -1) const override;
};

}  // namespace pristine::app
