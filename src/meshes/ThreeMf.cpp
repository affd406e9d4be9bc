// 3MF, the format of 3D printing, by the library of its consortium. The standard says +Z up and names the unit in the file; here all is turned to
// +Y up and metres. Components and build items are placed; names, materials and supports are left out.
#include "geometry/Rows.h"
#include "geometry/Triangulate.h"
#include "meshes/MeshBuilder.h"
#include "meshes/MeshFile.h"

#include <Model/COM/NMR_DLLInterfaces.h>

#include <array>
#include <memory>

namespace seedloom {

namespace {

using namespace NMR;

constexpr std::size_t kMostCorners = std::size_t(1) << 30;
constexpr std::size_t kMostParts = 100000;
constexpr int kDeepestComponents = 64;

struct Wrong {
    std::string text;
};

struct Releaser {
    void operator()(PLib3MFBase* thing) const { lib3mf_release(thing); }
};
template <class T> using Held = std::unique_ptr<T, Releaser>;

void check(LIB3MFRESULT result, const char* what) {
    if (result != LIB3MF_OK) throw Wrong{what};
}

/// What the library says of its last failure, or `otherwise`.
std::string lastWords(PLib3MFBase* of, const char* otherwise) {
    DWORD code = 0;
    LPCSTR text = nullptr;
    std::string out = lib3mf_getlasterror(of, &code, &text) == LIB3MF_OK && text && *text ? text : otherwise;
    while (!out.empty() && out.back() == '.') out.pop_back();
    return out;
}

/// The library gives rows of x, y, z, 1 times a 4×3 matrix, field [column][row].
Affine affineOf(const MODELTRANSFORM& t) {
    const auto& f = t.m_fFields;
    return {{f[0][0], f[1][0], f[2][0]}, {f[0][1], f[1][1], f[2][1]}, {f[0][2], f[1][2], f[2][2]}, {f[0][3], f[1][3], f[2][3]}};
}

class ThreeMfReader {
public:
    Result<Geometry> run(std::string_view bytes) {
        try {
            read(bytes);
            placeItems();
            for (Vec3& p : mesh_.positions) p = Vec3{p.x, p.z, -p.y} * scale_;
            return mesh_.finish();
        } catch (const Wrong& wrong) {
            return Error{"mesh.format", fmt::format("The 3MF file can't be read: {}. Export it again, or as another format.", wrong.text)};
        }
    }

private:
    void read(std::string_view bytes) {
        PLib3MFModel* model = nullptr;
        check(lib3mf_createmodel(&model), "there is not enough memory");
        model_.reset(model);
        PLib3MFModelReader* made = nullptr;
        check(lib3mf_model_queryreader(model, "3mf", &made), "its reader is missing");
        const Held<PLib3MFModelReader> reader(made);
        if (lib3mf_reader_readfrombuffer(made, reinterpret_cast<BYTE*>(const_cast<char*>(bytes.data())), bytes.size()) != LIB3MF_OK)
            throw Wrong{lastWords(made, "it is damaged")};
        static constexpr std::array<float, 6> kMetres{1e-6f, 1e-3f, 1e-2f, 0.0254f, 0.3048f, 1};
        DWORD unit = MODELUNIT_MILLIMETER;
        check(lib3mf_model_getunit(model, &unit), "it names no unit");
        if (unit < kMetres.size()) scale_ = kMetres[unit];
    }

    void placeItems() {
        PLib3MFModelBuildItemIterator* made = nullptr;
        check(lib3mf_model_getbuilditems(model_.get(), &made), "its list of items is damaged");
        const Held<PLib3MFModelBuildItemIterator> items(made);
        for (BOOL more = 0; lib3mf_builditemiterator_movenext(made, &more) == LIB3MF_OK && more;) {
            PLib3MFModelBuildItem* current = nullptr;
            check(lib3mf_builditemiterator_getcurrent(made, &current), "an item is damaged");
            const Held<PLib3MFModelBuildItem> item(current);
            MODELTRANSFORM transform{};
            check(lib3mf_builditem_getobjecttransform(current, &transform), "an item's place is damaged");
            PLib3MFModelObjectResource* object = nullptr;
            check(lib3mf_builditem_getobjectresource(current, &object), "an item has no object");
            add(Held<PLib3MFModelObjectResource>(object), affineOf(transform), 0);
        }
    }

    void add(Held<PLib3MFModelObjectResource> object, const Affine& place, int depth) {
        if (depth > kDeepestComponents) throw Wrong{"its components are nested too deeply"};
        BOOL isMesh = 0, isComponents = 0;
        check(lib3mf_object_ismeshobject(object.get(), &isMesh), "an object is damaged");
        check(lib3mf_object_iscomponentsobject(object.get(), &isComponents), "an object is damaged");
        if (isMesh) return addMesh(static_cast<PLib3MFModelMeshObject*>(object.get()), place);
        if (!isComponents) return;
        auto* whole = static_cast<PLib3MFModelComponentsObject*>(object.get());
        DWORD count = 0;
        check(lib3mf_componentsobject_getcomponentcount(whole, &count), "a list of components is damaged");
        for (DWORD i = 0; i < count; ++i) {
            // Components of components multiply: a small file could ask for any number of them.
            if (++placed_ > kMostParts) throw Wrong{"it places more components than can be read"};
            PLib3MFModelComponent* got = nullptr;
            check(lib3mf_componentsobject_getcomponent(whole, i, &got), "a component is damaged");
            const Held<PLib3MFModelComponent> component(got);
            MODELTRANSFORM transform{};
            check(lib3mf_component_gettransform(got, &transform), "a component's place is damaged");
            PLib3MFModelObjectResource* inner = nullptr;
            check(lib3mf_component_getobjectresource(got, &inner), "a component has no object");
            add(Held<PLib3MFModelObjectResource>(inner), place * affineOf(transform), depth + 1);
        }
    }

    void addMesh(PLib3MFModelMeshObject* object, const Affine& place) {
        DWORD points = 0, triangles = 0;
        check(lib3mf_meshobject_getvertexcount(object, &points), "a mesh is damaged");
        check(lib3mf_meshobject_gettrianglecount(object, &triangles), "a mesh is damaged");
        if (mesh_.cornerPoint.size() + std::size_t(triangles) * 3 + mesh_.positions.size() + points > kMostCorners)
            throw Wrong{"it holds more points and triangles than can be read"};
        std::vector<MODELMESHVERTEX> vertices(points);
        std::vector<MODELMESHTRIANGLE> corners(triangles);
        if (points > 0) check(lib3mf_meshobject_getvertices(object, vertices.data(), points, nullptr), "a mesh's points are damaged");
        if (triangles > 0) check(lib3mf_meshobject_gettriangleindices(object, corners.data(), triangles, nullptr), "a mesh's triangles are damaged");
        const auto first = static_cast<Index>(mesh_.positions.size());
        const bool mirrored = place.mirrors();
        for (const MODELMESHVERTEX& v : vertices) mesh_.positions.push_back(place.point({v.m_fPosition[0], v.m_fPosition[1], v.m_fPosition[2]}));
        for (const MODELMESHTRIANGLE& t : corners) {
            const auto& n = t.m_nIndices;
            mesh_.cornerPoint.insert(mesh_.cornerPoint.end(), {first + n[0], first + n[mirrored ? 2 : 1], first + n[mirrored ? 1 : 2]});
            mesh_.endFace();
        }
    }

    Held<PLib3MFModel> model_;
    MeshBuilder mesh_;
    float scale_ = 1e-3f;
    std::size_t placed_ = 0;
};

}  // namespace

Result<Geometry> threeMfFromBytes(std::string_view bytes) { return ThreeMfReader().run(bytes); }

}  // namespace seedloom
