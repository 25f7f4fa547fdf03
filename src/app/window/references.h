// Unit and reference system of items: asked for where nobody states them, stated, corrected, converted; lines
// from codes.

#pragma once

#include <set>
#include <vector>

#include "app/window/part.h"

namespace pristine::app {

class References : public Part {
    Q_OBJECT
  public:
    explicit References(Desk&);

    void add_commands() override;

  private:
    static bool has_codes(const site::Item& item);
    void choose_codes();
    void offer_codes();
    QString why_not_to_site() const;
    void choose_reference();
    void state_reference(const std::vector<std::uint64_t>& ids, const cloud::Reference& reference);
    std::vector<std::uint64_t> unasked_items();
    void ask_unit(const QString& before = {});
    void offer_zone();
    void say_odd(const std::filesystem::path& file, const std::vector<std::string>& sentences);
    std::set<std::uint64_t> asked_unit_, offered_codes_, offered_zone_;  // items that were asked about
};

}  // namespace pristine::app
