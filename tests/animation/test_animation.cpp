// Models that move as one file: parts found and followed, read again by a library that plays such files, and frames as files from the command line.
#include "cli/Commands.h"
#include "files/FileIo.h"
#include "meshes/GltfAnimation.h"
#include "meshes/MeshFile.h"
#include "support/Run.h"

#include <QtCore/QDir>
#include <QtCore/QTemporaryDir>
#include <QtTest/QtTest>

#include <assimp/postprocess.h>
#include <assimp/scene.h>
#include <assimp/Importer.hpp>

#include <functional>
#include <sstream>

using namespace seedloom;
using namespace seedloom::test;

namespace {

constexpr int kFrames = 13;

/// Two boxes, the second of which goes round the upright axis and turns with it, ten degrees a frame.
Geometry turning(int frame) {
    const Geometry still = made("transform", {{"move", {0, -2, 0}}}, {made("box", {{"size", {3, 0.5, 3}}})});
    const Geometry out = made("transform", {{"move", {2, 0, 0}}, {"rotate", {0, 0, 20}}}, {made("box", {{"size", {1, 0.4, 0.2}}})});
    return madeOf("merge", {{still, made("transform", {{"rotate", {0, 10.0 * frame, 0}}}, {out})}});
}

Geometry copiesAt(int frame) {
    std::vector<Vec3> at;
    for (int i = 0; i < 3; ++i) at.push_back({float(i), 0.1f * float(frame * i), 0});
    return madeOf("place_copies", {{Geometry(at)}, {made("box", {{"size", {0.3, 0.2, 0.1}}})}}, {{"align", "none"}});
}

Result<RigidMoves> followed(const std::function<Geometry(int)>& frameAt, int frames = kFrames) {
    auto moves = RigidMoves::from(frameAt(0), RunContext());
    for (int f = 1; moves && f < frames; ++f)
        if (const auto error = moves->add(frameAt(f), RunContext())) return *error;
    return moves;
}

aiMatrix4x4 wayTo(const aiNode& node, const aiScene& scene, unsigned key) {
    aiMatrix4x4 own = node.mTransformation;
    if (scene.mNumAnimations > 0)
        for (unsigned c = 0; c < scene.mAnimations[0]->mNumChannels; ++c) {
            const aiNodeAnim& channel = *scene.mAnimations[0]->mChannels[c];
            if (channel.mNodeName != node.mName) continue;
            aiVector3D scale, at;
            aiQuaternion turn;
            own.Decompose(scale, turn, at);
            if (channel.mNumPositionKeys > 1) at = channel.mPositionKeys[key].mValue;
            if (channel.mNumRotationKeys > 1) turn = channel.mRotationKeys[key].mValue;
            own = aiMatrix4x4(scale, turn, at);
        }
    return node.mParent ? wayTo(*node.mParent, scene, key) * own : own;
}

/// All vertices at a key, as that library plays them.
std::vector<Vec3> playedAt(const aiScene& scene, unsigned key) {
    std::vector<Vec3> out;
    const std::function<void(const aiNode&)> visit = [&](const aiNode& node) {
        const aiMatrix4x4 way = wayTo(node, scene, key);
        for (unsigned m = 0; m < node.mNumMeshes; ++m) {
            const aiMesh& mesh = *scene.mMeshes[node.mMeshes[m]];
            for (unsigned v = 0; v < mesh.mNumVertices; ++v) {
                const aiVector3D p = way * mesh.mVertices[v];
                out.push_back({p.x, p.y, p.z});
            }
        }
        for (unsigned c = 0; c < node.mNumChildren; ++c) visit(*node.mChildren[c]);
    };
    visit(*scene.mRootNode);
    return out;
}

/// Every point has one of the others within a distance.
bool covers(const std::vector<Vec3>& all, const std::vector<Vec3>& wanted, float within) {
    return std::all_of(wanted.begin(), wanted.end(),
                       [&](Vec3 p) { return std::any_of(all.begin(), all.end(), [&](Vec3 q) { return distance(p, q) <= within; }); });
}

struct Ran {
    int status;
    std::string out, err;
};
Ran run(std::vector<std::string> arguments) {
    std::ostringstream out, err;
    std::atomic<bool> stop{false};
    const int status = runCommandLine(arguments, out, err, stop);
    return {status, out.str(), err.str()};
}

const std::string kDemo = SEEDLOOM_SOURCE "/demo/tumbled-breakwater.loom";

}  // namespace

class TestAnimation : public QObject {
    Q_OBJECT

    QTemporaryDir folder_;
    std::string path(const char* name) const { return folder_.filePath(name).toStdString(); }

private Q_SLOTS:
    void partsAreFollowed() {
        const auto moves = followed(turning);
        QVERIFY(moves);
        QCOMPARE(moves->parts().size(), std::size_t(2));
        QCOMPARE(moves->frames(), std::size_t(kFrames));
        const MovingPart &still = moves->parts()[0], &going = moves->parts()[1];
        QVERIFY(!still.moves && going.moves && moves->anyMoves());
        QVERIFY(distance(still.centre, {0, -2, 0}) < 1e-5f);
        for (int f = 0; f < kFrames; ++f) {
            const double angle = radians(10.0 * f);
            QVERIFY(lengthOf(going.at[std::size_t(f)] - Triple{2 * std::cos(angle), 0, -2 * std::sin(angle)}) < 1e-5);
            const Turn& turn = going.turn[std::size_t(f)];
            QVERIFY(std::abs(turn[1] - std::sin(angle / 2)) < 1e-5 && std::abs(turn[3] - std::cos(angle / 2)) < 1e-5);
        }
    }

    void turnsGoTheShortWay() {
        // Round more than once: neighbours never lie on other sides.
        const auto moves = followed([](int f) { return turning(f * 4); }, 30);
        QVERIFY(moves);
        const auto& turn = moves->parts()[1].turn;
        for (std::size_t f = 1; f < turn.size(); ++f) {
            double along = 0;
            for (std::size_t i = 0; i < 4; ++i) along += turn[f][i] * turn[f - 1][i];
            QVERIFY(along > 0.9);
        }
    }

    void itPlaysInAnotherLibrary() {
        const auto moves = followed(turning);
        QVERIFY(moves);
        const std::string bytes = animatedGlb(*moves, 1.0 / 24);
        QCOMPARE(bytes, animatedGlb(*moves, 1.0 / 24));
        Assimp::Importer importer;
        const aiScene* scene = importer.ReadFileFromMemory(bytes.data(), bytes.size(), 0, "glb");
        QVERIFY2(scene, importer.GetErrorString());
        // Geometry once: two boxes, with 24 vertices at most each.
        QCOMPARE(scene->mNumMeshes, 2u);
        for (unsigned m = 0; m < 2; ++m) QVERIFY(scene->mMeshes[m]->mNumVertices <= 24);
        QCOMPARE(scene->mNumAnimations, 1u);
        const aiAnimation& played = *scene->mAnimations[0];
        QCOMPARE(played.mNumChannels, 1u);  // the other one stays
        QCOMPARE(played.mChannels[0]->mNumPositionKeys, unsigned(kFrames));
        QCOMPARE(played.mChannels[0]->mNumRotationKeys, unsigned(kFrames));
        const double seconds = (played.mChannels[0]->mPositionKeys[kFrames - 1].mTime - played.mChannels[0]->mPositionKeys[0].mTime) / played.mTicksPerSecond;
        QVERIFY2(std::abs(seconds - 0.5) < 1e-4, qPrintable(QString::number(seconds)));
        for (const int f : {0, 1, 7, kFrames - 1})
            QVERIFY2(covers(playedAt(*scene, unsigned(f)), turning(f).positions(), 1e-4f), qPrintable(QString::number(f)));
        QVERIFY(!covers(playedAt(*scene, 0), turning(7).positions(), 0.05f));
    }

    void copiesShareTheirMesh() {
        const auto moves = followed(copiesAt, 5);
        QVERIFY(moves && moves->copies().size() == 3);
        QVERIFY(!moves->copies()[0].moves && moves->copies()[2].moves);
        const std::string bytes = animatedGlb(*moves, 1.0 / 24);
        Assimp::Importer importer;
        const aiScene* scene = importer.ReadFileFromMemory(bytes.data(), bytes.size(), 0, "glb");
        QVERIFY2(scene, importer.GetErrorString());
        QCOMPARE(scene->mNumMeshes, 1u);
        QCOMPARE(scene->mAnimations[0]->mNumChannels, 2u);
        const auto all = playedAt(*scene, 4);
        for (int i = 0; i < 3; ++i) QVERIFY(covers(all, {{float(i) + 0.15f, 0.1f * float(4 * i) + 0.1f, 0.05f}}, 1e-4f));
    }

    void ourOwnReaderSeesTheFirstFrame() {
        const auto moves = followed(turning);
        const auto read = gltfFromBytes(animatedGlb(*moves, 1.0 / 24));
        QVERIFY(read);
        QVERIFY(covers(read->positions(), turning(0).positions(), 1e-4f));
        QCOMPARE(read->pointCount(), turning(0).pointCount());
    }

    void whatStaysIsWrittenWithoutKeys() {
        const auto moves = followed([](int) { return turning(3); }, 4);
        QVERIFY(moves && !moves->anyMoves());
        QVERIFY(animatedGlb(*moves, 1.0 / 24).find("animations") == std::string::npos);
    }

    void whatCannotMoveAsAWholeIsTold_data() {
        QTest::addColumn<QString>("code");
        QTest::addColumn<int>("kind");
        QTest::newRow("grows") << "animate.shape" << 0;
        QTest::newRow("other faces") << "animate.elements" << 1;
        QTest::newRow("a curve moves") << "animate.shape" << 2;
        QTest::newRow("a leaning copy") << "animate.leaning" << 3;
        QTest::newRow("a copy grows") << "animate.shape" << 4;
        QTest::newRow("one point aside") << "animate.shape" << 5;
    }
    void whatCannotMoveAsAWholeIsTold() {
        QFETCH(QString, code);
        QFETCH(int, kind);
        const auto frameAt = [kind](int f) -> Geometry {
            const double grown = 1 + 0.01 * f;
            if (kind == 0) return made("box", {{"size", {grown, 1, 1}}});
            if (kind == 1) return made("box", {{"cells", {1 + f, 1, 1}}});
            if (kind == 2) return made("transform", {{"move", {0, 0.1 * f, 0}}}, {made("line")});
            Geometry copies = copiesAt(0);
            if (kind < 5) {
                auto own = std::make_shared<Copies>(*copies.copies());
                if (kind == 3) own->place[1].x = {1, 0.5f, 0};
                if (kind == 4) own->place[1].x = own->place[1].x * float(grown);
                copies.setCopies(std::move(own));
                return copies;
            }
            Geometry box = made("box");
            std::vector<Vec3> at = box.positions();
            at[3].x += 0.002f * float(f);
            box.setPositions(std::move(at));
            return box;
        };
        const auto moves = followed(frameAt, 3);
        QVERIFY(!moves);
        QCOMPARE(moves.error().code, code.toStdString());
        QVERIFY(moves.error().text.size() > 40);
    }

    void theCommandLineWritesAFileThatMoves() {
        const std::string out = path("heap.glb");
        const Ran ran = run({"build", kDemo, "--set", "frame=-1", "--set", "blocks=5", "--animate", "0..20", "-o", out, "--json"});
        QVERIFY2(ran.status == 0, ran.err.c_str());
        const Json summary = Json::parse(ran.out);
        QCOMPARE(summary["frames"]["to"].get<int>(), 20);
        QCOMPARE(summary["frames"]["outputs"].size(), std::size_t(1));
        Assimp::Importer importer;
        const aiScene* scene = importer.ReadFile(out, 0);
        QVERIFY2(scene, importer.GetErrorString());
        QCOMPARE(scene->mNumAnimations, 1u);
        QVERIFY(scene->mAnimations[0]->mNumChannels >= 5);
        // The last frame is the model of that frame.
        const Ran last = run({"build", kDemo, "--set", "frame=20", "--set", "blocks=5", "-o", path("last.glb")});
        QCOMPARE(last.status, 0);
        const auto model = readMesh(path("last.glb"));
        QVERIFY(model);
        std::vector<Vec3> some;
        for (std::size_t p = 0; p < model->pointCount(); p += 37) some.push_back(model->positions()[p]);
        QVERIFY(covers(playedAt(*scene, 20), some, 2e-4f));
        // One that keeps its frame does not move, and that is said.
        const Ran still = run({"build", kDemo, "--set", "blocks=3", "--set", "frame=2", "--animate", "0..3", "-o", out});
        QCOMPARE(still.status, 0);
        QVERIFY(still.err.find("nothing moves") != std::string::npos);
    }

    void theCommandLineWritesAFileAFrame() {
        const Ran ran = run({"build", kDemo, "--set", "frame=-1", "--set", "blocks=3", "--frames", "9..11", "-o", path("f.####.obj")});
        QVERIFY2(ran.status == 0, ran.err.c_str());
        QCOMPARE(QDir(folder_.path()).entryList({"f.*.obj"}), (QStringList{"f.0009.obj", "f.0010.obj", "f.0011.obj"}));
        const auto a = readMesh(path("f.0009.obj")), b = readMesh(path("f.0011.obj"));
        QVERIFY(a && b && a->pointCount() == b->pointCount() && a->positions() != b->positions());
    }

    void wrongCallsAreTold_data() {
        QTest::addColumn<QStringList>("arguments");
        QTest::addColumn<QString>("word");
        QTest::newRow("one number") << QStringList{"--frames", "3", "-o", "x.#.obj"} << "first..last";
        QTest::newRow("backwards") << QStringList{"--frames", "3..1", "-o", "x.#.obj"} << "first one first";
        QTest::newRow("below 0") << QStringList{"--animate", "-3..1", "-o", "x.glb"} << "--animate";
        QTest::newRow("no place for the number") << QStringList{"--frames", "0..2", "-o", "x.obj"} << "####";
        QTest::newRow("not a glb") << QStringList{"--animate", "0..2", "-o", "x.obj"} << ".glb";
        QTest::newRow("nowhere to") << QStringList{"--animate", "0..2"} << "--out";
        QTest::newRow("both") << QStringList{"--animate", "0..2", "--frames", "0..2", "-o", "x.glb"} << "one of them";
        QTest::newRow("too many") << QStringList{"--frames", "0..50000", "-o", "x.#.obj"} << "10000";
        QTest::newRow("a number too large") << QStringList{"--frames", "0..99999999999", "-o", "x.#.obj"} << "first..last";
        QTest::newRow("unknown ending") << QStringList{"--frames", "0..2", "-o", "x.#.txt"} << "ending";
    }
    void wrongCallsAreTold() {
        QFETCH(QStringList, arguments);
        QFETCH(QString, word);
        std::vector<std::string> all{"build", kDemo};
        for (const QString& one : arguments) all.push_back(one.toStdString());
        const Ran ran = run(all);
        QCOMPARE(ran.status, 1);
        QVERIFY2(ran.err.find(word.toStdString()) != std::string::npos, ran.err.c_str());
    }
};

QTEST_GUILESS_MAIN(TestAnimation)
#include "test_animation.moc"
