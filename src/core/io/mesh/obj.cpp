// OBJ meshes with their material files.

#include <fmt/format.h>

#include <algorithm>
#include <cmath>
#include <map>
#include <optional>

#include "core/base/error.h"
#include "core/base/file.h"
#include "core/base/output.h"
#include "core/io/mesh/images.h"
#include "core/io/mesh/mesh_io.h"
#include "core/io/mesh/polygons.h"
#include "core/io/mesh/text_scan.h"
#include "core/io/mesh/vertex_colours.h"
#include "core/io/reference/remark.h"

namespace pristine::io {
namespace {

std::string_view trimmed(std::string_view s) {
    const auto from = s.find_first_not_of(" \t");
    return from == std::string_view::npos ? std::string_view()
                                          : s.substr(from, s.find_last_not_of(" \t") - from + 1);
}

std::uint32_t byte_of(double share) {
    return std::isfinite(share) ? static_cast<std::uint32_t>(std::lround(std::clamp(share, 0.0, 1.0) * 255))
                                : 0;
}

std::uint32_t rgb(double r, double g, double b) {
    return byte_of(r) << 16 | byte_of(g) << 8 | byte_of(b);
}

// The file that a map names: what is left of the line behind options such as "-s 1 1 1".
std::string_view map_file(std::string_view rest) {
    rest = trimmed(rest);
    while (!rest.empty() && rest.front() == '-') {
        const std::string_view option = TextScan::word(rest);
        const bool several = option == "-s" || option == "-o" || option == "-t" || option == "-mm";
        for (int k = 0; k < (several ? 3 : 1); ++k) {
            std::string_view next = rest;
            const std::string_view w = TextScan::word(next);
            // Fewer numbers than there may be.
            if (several && k > 0 && w.find_first_not_of("0123456789.-+eE") != std::string_view::npos) break;
            rest = next;
        }
        rest = trimmed(rest);
    }
    return rest;
}

constexpr double kRoundedOne = 1.001;

class ObjReader {
  public:
    /// `full`: what full light of a vertex is told by.
    ObjReader(const std::string& text, const std::string& place, Progress* progress, double full = 1)
        : path_(place),
          text_(text),
          scan_(text, place, progress),
          full_(full),
          adder_(file_, colours_, place) {
        file_.format = "OBJ mesh";
    }

    MeshFile read() {
        std::string_view line;
        std::string whole;
        while (scan_.line(line)) {
            if (!line.empty() && line.back() == '\\') line = continued(line, whole);
            const std::string_view what = TextScan::word(line);
            // Behind numbers a remark may follow; names may hold its sign.
            if (what == "v" || what == "vt" || what == "vn" || what == "f")
                line = line.substr(0, line.find('#'));
            if (what == "v")
                vertex(line);
            else if (what == "vt")
                texture(line);
            else if (what == "vn")
                normal(line);
            else if (what == "f")
                face(line);
            else if (what == "g" || what == "o")
                face_.group = number_in(groups_, trimmed(line), file_.attributes.groups,
                                        [](std::string_view n) { return std::string(n); });
            else if (what == "usemtl")
                face_.material = material(trimmed(line));
            else if (what == "mtllib")
                libraries_.emplace_back(trimmed(line));
        }
        // Once more where the values are no shares of 1.
        if (full_ == 1 && greatest_ > kRoundedOne)
            return ObjReader(text_, path_.string(), nullptr, greatest_ <= 255 ? 255 : 65535).read();
        for (const std::string& name : libraries_) read_materials(name);
        adder_.finish();
        return std::move(file_);
    }

  private:
    // A line that ends with a backslash goes on in the next.
    std::string_view continued(std::string_view line, std::string& whole) {
        whole.clear();
        for (;;) {
            const bool more = !line.empty() && line.back() == '\\';
            if (more) line.remove_suffix(1);
            whole.append(line).append(" ");
            if (!more || !scan_.line(line)) return whole;
        }
    }
    void vertex(std::string_view line) {
        Vec3 p;
        for (int k = 0; k < 3; ++k) p[k] = scan_.number(TextScan::word(line));
        file_.mesh.vertices.push_back(p);
        std::array<double, 3> c{};
        std::size_t n = 0;
        for (; n < 3; ++n) {
            const std::string_view w = TextScan::word(line);
            if (w.empty()) break;  // one number more is a weight, which no scan has
            c[n] = scan_.number(w);
        }
        if (n < 3 && colours_.empty()) return;
        colours_.resize(file_.mesh.vertices.size() - 1, 0xFFFFFF);
        for (const double v : c)
            if (n == 3 && std::isfinite(v)) greatest_ = std::max(greatest_, v);
        colours_.push_back(n == 3 ? rgb(c[0] / full_, c[1] / full_, c[2] / full_) : 0xFFFFFF);
    }
    void texture(std::string_view line) {
        std::array<float, 2> uv{};
        for (float& v : uv) {
            const std::string_view w = TextScan::word(line);
            if (!w.empty()) v = static_cast<float>(scan_.number(w));
        }
        texture_.push_back(uv);
    }
    void normal(std::string_view line) {
        std::array<float, 3> n{};
        for (float& v : n) v = static_cast<float>(scan_.number(TextScan::word(line)));
        normals_.push_back(n);
    }

    // Negative numbers count from the last one backwards.
    std::size_t index(std::string_view w, std::size_t count, const char* of) const {
        std::int64_t i = scan_.whole(w);
        i = i < 0 ? static_cast<std::int64_t>(count) + i : i - 1;
        if (i < 0 || i >= static_cast<std::int64_t>(count))
            scan_.fail(std::string("A face names a ") + of + " that is not there");
        return static_cast<std::size_t>(i);
    }

    void face(std::string_view line) {
        face_.clear();
        for (std::string_view w = TextScan::word(line); !w.empty(); w = TextScan::word(line)) {
            const auto part = [&w] {
                const auto slash = w.find('/');
                const std::string_view p = w.substr(0, slash);
                w.remove_prefix(slash == std::string_view::npos ? w.size() : slash + 1);
                return p;
            };
            face_.corners.push_back(
                static_cast<std::uint32_t>(index(part(), file_.mesh.vertices.size(), "vertex")));
            const std::string_view t = part(), n = part();
            if (!t.empty()) face_.texture.push_back(texture_[index(t, texture_.size(), "texture vertex")]);
            if (!n.empty()) face_.normals.push_back(normals_[index(n, normals_.size(), "normal")]);
        }
        if (face_.corners.size() < 3) scan_.fail("A face has fewer than three corners");
        // Of some corners only: of no use.
        if (face_.texture.size() != face_.corners.size()) face_.texture.clear();
        if (face_.normals.size() != face_.corners.size()) face_.normals.clear();
        if (file_.attributes.groups.empty())
            face_.group = number_in(groups_, "", file_.attributes.groups, to_string);
        if (file_.attributes.materials.empty()) face_.material = material("");
        adder_.add(face_);
    }
    static std::string to_string(std::string_view n) { return std::string(n); }

    std::uint16_t material(std::string_view name) {
        return number_in(materials_, name, file_.attributes.materials,
                         [](std::string_view n) { return mesh::Material{.name = std::string(n)}; });
    }
    template <class T, class Make>
    std::uint16_t number_in(std::map<std::string, std::uint16_t, std::less<>>& known, std::string_view name,
                            std::vector<T>& list, Make make) {
        const auto at = known.find(name);
        if (at != known.end()) return at->second;
        if (list.size() == UINT16_MAX) return 0;  // more names than anybody gives by hand
        const auto number = static_cast<std::uint16_t>(list.size());
        list.push_back(make(name));
        known.emplace(name, number);
        return number;
    }

    void read_materials(const std::string& name) {
        const std::filesystem::path at = file_beside(path_, name);
        std::string text;
        try {
            if (at.empty()) throw Error(ErrorCode::Io, "There is no such file", name);
            const InputFile file(at);
            text = file.read_string(0, file.size());
        } catch (const Error&) {
            file_.warnings.push_back("The materials '" + name + "' of the mesh are not there.");
            return;
        }
        TextScan scan(text, at.string());
        std::string_view line;
        mesh::Material* m = nullptr;
        std::map<std::string, mesh::Material> pictures;  // each is read once
        while (scan.line(line)) {
            const std::string_view what = TextScan::word(line);
            if (what == "newmtl") {
                const auto known = materials_.find(trimmed(line));
                m = known == materials_.end() ? nullptr : &file_.attributes.materials[known->second];
            } else if (m && what == "Kd") {
                std::array<double, 3> c{};
                for (double& v : c) v = scan.number(TextScan::word(line));
                m->colour = rgb(c[0], c[1], c[2]);
            } else if (m && what == "map_Kd") {
                const std::string file(map_file(line));
                auto [picture, fresh] = pictures.try_emplace(file);
                if (fresh) load_image(picture->second, path_, file, file_.warnings);
                m->image_name = picture->second.image_name;
                m->image = picture->second.image;
                m->picture = picture->second.picture;
            }
        }
    }

    std::filesystem::path path_;
    const std::string& text_;
    TextScan scan_;
    double full_, greatest_ = 0;  // of colours of vertices
    MeshFile file_;
    std::vector<std::uint32_t> colours_;  // of vertices
    std::vector<std::array<float, 2>> texture_;
    std::vector<std::array<float, 3>> normals_;
    Face face_;
    std::vector<std::string> libraries_;
    std::map<std::string, std::uint16_t, std::less<>> groups_, materials_;
    FaceAdder adder_;
};

class ObjWriter {
  public:
    ObjWriter(const mesh::TriMesh& m, const mesh::Attributes& a) : m_(m), a_(a) {}

    std::string obj(const std::string& library) {
        s_ = "# Triangle mesh\n";
        if (!a_.material.empty()) s_ += "mtllib " + library + "\n";
        vertices();
        const auto texture = numbered(a_.texture, "vt");
        const auto normals = numbered(a_.normals, "vn");
        for (std::size_t t = 0; t < m_.triangles.size(); ++t) {
            if (!a_.group.empty() && (t == 0 ? !group(t).empty() : a_.group[t] != a_.group[t - 1]))
                add("g {}\n", group(t).empty() ? "default" : group(t));
            if (!a_.material.empty() && (t == 0 || a_.material[t] != a_.material[t - 1]))
                add("usemtl {}\n", name_of(a_.materials[a_.material[t]]));
            s_ += 'f';
            for (std::size_t k = 0; k < 3; ++k) {
                add(" {}", m_.triangles[t][k] + 1);
                if (!texture.empty()) add("/{}", texture[t][k]);
                if (!normals.empty()) add("{}{}", texture.empty() ? "//" : "/", normals[t][k]);
            }
            s_ += '\n';
        }
        return std::move(s_);
    }

    std::string library(const std::vector<std::string>& images) {
        s_ = "# Materials of a triangle mesh\n";
        for (std::size_t k = 0; k < a_.materials.size(); ++k) {
            const mesh::Material& m = a_.materials[k];
            add("newmtl {}\nKd {:.6} {:.6} {:.6}\n", name_of(m), share(m.colour >> 16), share(m.colour >> 8),
                share(m.colour));
            if (!images[k].empty()) add("map_Kd {}\n", images[k]);
        }
        return std::move(s_);
    }

  private:
    template <class... Values>
    void add(fmt::format_string<Values...> format, Values&&... values) {
        fmt::format_to(std::back_inserter(s_), format, std::forward<Values>(values)...);
    }
    static double share(std::uint32_t c) { return static_cast<double>(c & 255u) / 255; }
    const std::string& group(std::size_t t) const { return a_.groups[a_.group[t]]; }
    static std::string name_of(const mesh::Material& m) { return m.name.empty() ? "default" : m.name; }

    void vertices() {
        const std::vector<std::uint32_t> colours = vertex_colours(m_, a_);
        for (std::size_t i = 0; i < m_.vertices.size(); ++i) {
            const Vec3& v = m_.vertices[i];
            add("v {} {} {}", v.x, v.y, v.z);
            if (!colours.empty())
                add(" {:.6} {:.6} {:.6}", share(colours[i] >> 16), share(colours[i] >> 8), share(colours[i]));
            s_ += '\n';
        }
    }

    // Writes each value once, and gives their numbers.
    template <std::size_t N>
    std::vector<std::array<std::size_t, 3>> numbered(
        const std::vector<std::array<std::array<float, N>, 3>>& values, const char* what) {
        std::vector<std::array<std::size_t, 3>> numbers;
        std::map<std::array<float, N>, std::size_t> known;
        for (const auto& corners : values) {
            auto& n = numbers.emplace_back();
            for (std::size_t k = 0; k < 3; ++k) {
                const auto [at, fresh] = known.try_emplace(corners[k], known.size() + 1);
                n[k] = at->second;
                if (!fresh) continue;
                s_ += what;
                for (const float v : corners[k]) add(" {}", v);
                s_ += '\n';
            }
        }
        return numbers;
    }

    const mesh::TriMesh& m_;
    const mesh::Attributes& a_;
    std::string s_;
};

}  // namespace

MeshFile read_obj(const std::string& text, const std::string& place, Progress& progress) {
    return ObjReader(text, place, &progress).read();
}

void write_obj(const mesh::TriMesh& m, const mesh::Attributes& a, const std::filesystem::path& path,
               bool replace, const cloud::Reference& reference) {
    std::filesystem::path library = path;
    library.replace_extension(".mtl");
    const bool materials = !a.material.empty();
    OutputGroup together;
    OutputFile out(path, replace);
    if (materials) {
        OutputFile beside(library, replace);
        beside.write(ObjWriter(m, a).library(write_images(a, path, replace)));
        beside.finish();
    }
    for (const std::string& line : reference_remarks(reference)) out.write("# " + line + "\n");
    out.write(ObjWriter(m, a).obj(library.filename().string()));
    out.finish();
    together.commit();
}

}  // namespace pristine::io
