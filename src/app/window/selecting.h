// Selections beyond what a tool makes: grown, inverted, kept under a name, inside lines of a file, among what
// is out.

#pragma once

#include "app/window/part.h"

namespace pristine::app {

class Selecting : public HandyPart {
    Q_OBJECT
  public:
    explicit Selecting(Desk&);
    void select_lines(const std::filesystem::path& file);
    void add_commands() override;

  private:
    void add_ways();
    void add_whole();
    void add_growth();
    void add_sources();
    void grow(
        const char* id, const QString& title, site::Settings settings,
        std::function<ElementSet(const cloud::PointCloud&, const ElementSet&, const ElementSet&, Progress&)>
            how);
    site::Settings step_of_growth() const;
    void choose_lines();
    void select_round_rim();
    void select_rim_under_pointer();
    PixelPoint pointer_;  // in the stage
    void fill_kept(QMenu*);
};

}  // namespace pristine::app
