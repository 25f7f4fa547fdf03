#include "core/io/3mf/three_mf.h"

#include <Model/COM/NMR_DLLInterfaces.h>
#include <fmt/format.h>

#include <algorithm>
#include <cmath>

#include "core/base/error.h"
#include "core/base/fuzzing.h"
#include "core/base/output.h"
#include "core/base/units.h"
#include "core/io/foreign/mesh_answer.h"

namespace pristine::io {
namespace {

constexpr int kMostNested = 64;

// An object of the library, given back at the end.
template <class T>
class Held {
  public:
    Held() = default;
    ~Held() {
        if (object_) NMR::lib3mf_release(object_);
    }
    Held(const Held&) = delete;
    Held& operator=(const Held&) = delete;
    T** into() { return &object_; }
    T* get() const { return object_; }

  private:
    T* object_ = nullptr;
};

void check(LIB3MFRESULT result, NMR::PLib3MFBase* of, const std::string& place) {
    if (result == LIB3MF_OK) return;
    DWORD code = 0;
    LPCSTR message = nullptr;
    if (of) NMR::lib3mf_getlasterror(of, &code, &message);
    throw Error(ErrorCode::Format,
                fmt::format("The file cannot be read: {}", message && *message ? message : "it is no 3MF"),
                place);
}

struct Unit {
    NMR::eModelUnit theirs;
    const char* ours;
};
constexpr Unit kUnits[] = {{NMR::MODELUNIT_MILLIMETER, "mm"},
                           {NMR::MODELUNIT_CENTIMETER, "cm"},
                           {NMR::MODELUNIT_INCH, "in"},
                           {NMR::MODELUNIT_FOOT, "ft"},
                           {NMR::MODELUNIT_METER, "m"}};

// Rows of three numbers and a shift.
struct Transform {
    double m[3][4] = {{1, 0, 0, 0}, {0, 1, 0, 0}, {0, 0, 1, 0}};
    Transform() = default;
    explicit Transform(const NMR::MODELTRANSFORM& t) {
        for (int r = 0; r < 3; ++r)
            for (int c = 0; c < 4; ++c) m[r][c] = static_cast<double>(t.m_fFields[r][c]);
    }
    Vec3 at(const Vec3& p) const {
        Vec3 w;
        for (int r = 0; r < 3; ++r) w[r] = m[r][0] * p.x + m[r][1] * p.y + m[r][2] * p.z + m[r][3];
        return w;
    }
    double determinant() const {
        return m[0][0] * (m[1][1] * m[2][2] - m[1][2] * m[2][1]) -
               m[0][1] * (m[1][0] * m[2][2] - m[1][2] * m[2][0]) +
               m[0][2] * (m[1][0] * m[2][1] - m[1][1] * m[2][0]);
    }
};

Transform operator*(const Transform& a, const Transform& b) {
    Transform t;
    for (int r = 0; r < 3; ++r)
        for (int c = 0; c < 4; ++c) {
            t.m[r][c] = c == 3 ? a.m[r][3] : 0;
            for (int k = 0; k < 3; ++k) t.m[r][c] += a.m[r][k] * b.m[k][c];
        }
    return t;
}

class Reader {
  public:
    explicit Reader(std::string place) : place_(std::move(place)) {}

    MeshFile run(std::string& bytes) {
        check(NMR::lib3mf_createmodel(model_.into()), nullptr, place_);
        {
            Held<NMR::PLib3MFModelReader> reader;
            check(NMR::lib3mf_model_queryreader(model_.get(), "3mf", reader.into()), model_.get(), place_);
            check(NMR::lib3mf_reader_readfrombuffer(reader.get(), reinterpret_cast<BYTE*>(bytes.data()),
                                                    bytes.size()),
                  reader.get(), place_);
        }
        unit();
        Held<NMR::PLib3MFModelBuildItemIterator> items;
        check(NMR::lib3mf_model_getbuilditems(model_.get(), items.into()), model_.get(), place_);
        for (BOOL more = 0;;) {
            check(NMR::lib3mf_builditemiterator_movenext(items.get(), &more), items.get(), place_);
            if (!more) break;
            Held<NMR::PLib3MFModelBuildItem> item;
            check(NMR::lib3mf_builditemiterator_getcurrent(items.get(), item.into()), items.get(), place_);
            Held<NMR::PLib3MFModelObjectResource> object;
            check(NMR::lib3mf_builditem_getobjectresource(item.get(), object.into()), item.get(), place_);
            BOOL turned = 0;
            check(NMR::lib3mf_builditem_hasobjecttransform(item.get(), &turned), item.get(), place_);
            NMR::MODELTRANSFORM t{};
            if (turned) check(NMR::lib3mf_builditem_getobjecttransform(item.get(), &t), item.get(), place_);
            add(object.get(), turned ? Transform(t) : Transform(), 0);
        }
        if (!coloured_) file_.attributes.colours.clear();
        if (file_.attributes.groups.size() < 2) {
            file_.attributes.group.clear();
            file_.attributes.groups.clear();
        }
        file_.format = "3MF";
        return std::move(file_);
    }

  private:
    void unit() {
        DWORD unit = 0;
        check(NMR::lib3mf_model_getunit(model_.get(), &unit), model_.get(), place_);
        for (const Unit& u : kUnits)
            if (unit == static_cast<DWORD>(u.theirs)) file_.unit = u.ours;
        if (file_.unit.empty()) {  // a thousandth of a millimetre
            file_.unit = "mm";
            scale_ = 0.001;
        }
    }

    void add(NMR::PLib3MFModelObjectResource* object, const Transform& here, int depth) {
        if (depth > kMostNested) throw Error(ErrorCode::Format, "Its objects are made of each other", place_);
        BOOL mesh = 0;
        check(NMR::lib3mf_object_ismeshobject(object, &mesh), object, place_);
        if (mesh) return add_mesh(object, here);
        DWORD n = 0;
        check(NMR::lib3mf_componentsobject_getcomponentcount(object, &n), object, place_);
        for (DWORD k = 0; k < n; ++k) {
            Held<NMR::PLib3MFModelComponent> component;
            check(NMR::lib3mf_componentsobject_getcomponent(object, k, component.into()), object, place_);
            Held<NMR::PLib3MFModelObjectResource> inner;
            check(NMR::lib3mf_component_getobjectresource(component.get(), inner.into()), component.get(),
                  place_);
            BOOL turned = 0;
            check(NMR::lib3mf_component_hastransform(component.get(), &turned), component.get(), place_);
            NMR::MODELTRANSFORM t{};
            if (turned)
                check(NMR::lib3mf_component_gettransform(component.get(), &t), component.get(), place_);
            add(inner.get(), turned ? here * Transform(t) : here, depth + 1);
        }
    }

    void add_mesh(NMR::PLib3MFModelObjectResource* object, const Transform& here) {
        DWORD vertices = 0, triangles = 0, got = 0;
        check(NMR::lib3mf_meshobject_getvertexcount(object, &vertices), object, place_);
        check(NMR::lib3mf_meshobject_gettrianglecount(object, &triangles), object, place_);
        if (triangles == 0) return;
        std::vector<NMR::MODELMESHVERTEX> places(vertices);
        std::vector<NMR::MODELMESHTRIANGLE> corners(triangles);
        check(NMR::lib3mf_meshobject_getvertices(object, places.data(), vertices, &got), object, place_);
        check(NMR::lib3mf_meshobject_gettriangleindices(object, corners.data(), triangles, &got), object,
              place_);
        const auto base = static_cast<std::uint32_t>(file_.mesh.vertices.size());
        for (const auto& v : places)
            file_.mesh.vertices.push_back(
                here.at(Vec3{static_cast<double>(v.m_fPosition[0]), static_cast<double>(v.m_fPosition[1]),
                             static_cast<double>(v.m_fPosition[2])}) *
                scale_);
        const bool mirrored = here.determinant() < 0;
        for (const auto& t : corners) {
            std::array<std::uint32_t, 3> c{base + t.m_nIndices[0], base + t.m_nIndices[1],
                                           base + t.m_nIndices[2]};
            if (mirrored) std::swap(c[1], c[2]);
            file_.mesh.triangles.push_back(c);
        }
        add_colours(object, triangles, mirrored);
        file_.attributes.groups.push_back(name_of(object));
        file_.attributes.group.resize(file_.mesh.triangles.size(),
                                      static_cast<std::uint16_t>(file_.attributes.groups.size() - 1));
    }
    void add_colours(NMR::PLib3MFModelObjectResource* object, DWORD triangles, bool mirrored) {
        Held<NMR::PLib3MFPropertyHandler> handler;
        std::vector<NMR::MODELMESH_TRIANGLECOLOR_SRGB> colours(triangles);
        if (NMR::lib3mf_meshobject_createpropertyhandler(object, handler.into()) != LIB3MF_OK ||
            NMR::lib3mf_propertyhandler_getcolorarray(handler.get(), colours.data()) != LIB3MF_OK)
            colours.assign(triangles, {});
        for (const auto& t : colours) {
            auto& c = file_.attributes.colours.emplace_back();
            for (std::size_t k = 0; k < 3; ++k) {
                const auto& from = t.m_Colors[mirrored && k > 0 ? 3 - k : k];
                coloured_ |= from.m_Alpha != 0;
                // Without any colour it is white.
                c[k] = from.m_Alpha == 0
                           ? 0xFFFFFFu
                           : std::uint32_t{from.m_Red} << 16 | std::uint32_t{from.m_Green} << 8 | from.m_Blue;
            }
        }
    }
    std::string name_of(NMR::PLib3MFModelObjectResource* object) const {
        char name[1024] = {};
        ULONG needed = 0;
        if (NMR::lib3mf_object_getnameutf8(object, name, sizeof name - 1, &needed) != LIB3MF_OK || !*name)
            return fmt::format("Object {}", file_.attributes.groups.size() + 1);
        return name;
    }

    std::string place_;
    Held<NMR::PLib3MFModel> model_;
    MeshFile file_;
    double scale_ = 1;
    bool coloured_ = false;
};

// The unit that is stated, and what makes it of ours. Throws Error(Unsupported) when ours is not known.
std::pair<NMR::eModelUnit, double> unit_for(const cloud::Reference& r) {
    for (const Unit& u : kUnits)
        if (r.unit == u.ours) return {u.theirs, 1};
    if (r.unit.empty())
        throw Error(ErrorCode::Unsupported, "3MF must state a unit, and that of this mesh is not known", {},
                    "Set it first: Item › Unit and reference system, or --unit.");
    return {NMR::MODELUNIT_METER, length_unit(r.unit).metres};
}

std::vector<NMR::MODELMESHVERTEX> places_of(const mesh::TriMesh& m, double scale) {
    constexpr double kFar = 100'000;
    std::vector<NMR::MODELMESHVERTEX> out(m.vertices.size());
    for (std::size_t i = 0; i < out.size(); ++i)
        for (int a = 0; a < 3; ++a) {
            const double v = scale * m.vertices[i][a];
            if (std::fabs(v) > kFar)
                throw Error(ErrorCode::Unsupported,
                            "3MF keeps seven digits only, which national coordinates do not fit into", {},
                            "Bring the mesh near the origin (Align), or write PLY or glTF.");
            out[i].m_fPosition[a] = static_cast<float>(v);
        }
    return out;
}

std::vector<NMR::MODELMESHTRIANGLE> triangles_of(const mesh::TriMesh& m) {
    std::vector<NMR::MODELMESHTRIANGLE> out(m.triangles.size());
    for (std::size_t t = 0; t < out.size(); ++t) {
        const auto& c = m.triangles[t];
        if (c[0] == c[1] || c[1] == c[2] || c[2] == c[0])
            throw Error(ErrorCode::Unsupported, "3MF holds no triangle with two corners in one", {},
                        "Repair the mesh first.");
        std::copy(c.begin(), c.end(), out[t].m_nIndices);
    }
    return out;
}

void set_colours(NMR::PLib3MFModelMeshObject* object, const mesh::Attributes& a, const std::string& place) {
    if (a.colours.empty()) return;
    std::vector<NMR::MODELMESH_TRIANGLECOLOR_SRGB> colours(a.colours.size());
    for (std::size_t t = 0; t < colours.size(); ++t)
        for (std::size_t k = 0; k < 3; ++k) {
            const std::uint32_t c = a.colours[t][k];
            colours[t].m_Colors[k] = {static_cast<BYTE>(c >> 16), static_cast<BYTE>(c >> 8),
                                      static_cast<BYTE>(c), 255};
        }
    // A mesh with colours must have one of its own besides.
    Held<NMR::PLib3MFDefaultPropertyHandler> usual;
    check(NMR::lib3mf_object_createdefaultpropertyhandler(object, usual.into()), object, place);
    check(NMR::lib3mf_defaultpropertyhandler_setcolor(usual.get(), &colours[0].m_Colors[0]), usual.get(),
          place);
    Held<NMR::PLib3MFPropertyHandler> handler;
    check(NMR::lib3mf_meshobject_createpropertyhandler(object, handler.into()), object, place);
    check(NMR::lib3mf_propertyhandler_setgradientcolorarray(handler.get(), colours.data()), handler.get(),
          place);
}

}  // namespace

std::vector<MeshFile> read_3mf_here(const std::filesystem::path& path) {
    const InputFile file(path);
    std::string bytes = file.read_string(0, file.size());
    std::vector<MeshFile> one;
    one.push_back(Reader(path.filename().string()).run(bytes));
    return one;
}

std::vector<MeshFile> read_3mf(const std::filesystem::path& path) {
    return fuzzing ? read_3mf_here(path) : read_meshes_guarded("3mf", path);
}

void write_3mf(const MeshOut& out, const std::filesystem::path& path, bool replace) {
    const std::string place = path.filename().string();
    const auto [unit, scale] = unit_for(out.reference);
    auto places = places_of(out.mesh, scale);
    auto triangles = triangles_of(out.mesh);
    Held<NMR::PLib3MFModel> model;
    check(NMR::lib3mf_createmodel(model.into()), nullptr, place);
    check(NMR::lib3mf_model_setunit(model.get(), static_cast<DWORD>(unit)), model.get(), place);
    Held<NMR::PLib3MFModelMeshObject> object;
    check(NMR::lib3mf_model_addmeshobject(model.get(), object.into()), model.get(), place);
    check(NMR::lib3mf_object_setnameutf8(object.get(), path.stem().string().c_str()), object.get(), place);
    check(NMR::lib3mf_meshobject_setgeometry(object.get(), places.data(), static_cast<DWORD>(places.size()),
                                             triangles.data(), static_cast<DWORD>(triangles.size())),
          object.get(), place);
    set_colours(object.get(), out.attributes, place);
    Held<NMR::PLib3MFModelBuildItem> item;
    check(NMR::lib3mf_model_addbuilditem(model.get(), object.get(), nullptr, item.into()), model.get(),
          place);
    Held<NMR::PLib3MFModelWriter> writer;
    check(NMR::lib3mf_model_querywriter(model.get(), "3mf", writer.into()), model.get(), place);
    ULONG64 size = 0;
    check(NMR::lib3mf_writer_getstreamsize(writer.get(), &size), writer.get(), place);
    std::string bytes(size, '\0');
    check(NMR::lib3mf_writer_writetobuffer(writer.get(), reinterpret_cast<BYTE*>(bytes.data()), size),
          writer.get(), place);
    OutputFile file(path, replace);
    file.write(bytes);
    file.finish();
}

MeshFormat three_mf_format() {
    return {"3mf",
            "3MF for printing",
            {"3mf"},
            nullptr,
            [](const std::filesystem::path& path, Progress&) { return read_3mf(path); },
            write_3mf};
}

}  // namespace pristine::io
