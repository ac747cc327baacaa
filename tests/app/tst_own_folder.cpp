// SPDX-License-Identifier: GPL-3.0-or-later
#include "app/window_fixture.h"

#include "level/level_files.h"
#include "level/mesh_import.h"
#include "support/one_of_many.h"

#include <filesystem>
#include <fstream>

namespace tst_own_folder
{

using namespace stone;

namespace
{

const char* const secret = "what nobody may copy";

std::string textIn(const std::filesystem::path& file)
{
    std::ifstream in(file, std::ios::binary);
    return {std::istreambuf_iterator<char>(in), {}};
}

bool anywhereBelow(const QString& folder, const std::string& text)
{
    for (const auto& entry : std::filesystem::recursive_directory_iterator(folder.toStdString())) {
        if (entry.is_regular_file() && textIn(entry.path()).find(text) != std::string::npos) {
            return true;
        }
    }
    return false;
}

/// A session that says what went wrong.
struct Desk {
    Desk()
    {
        QObject::connect(&session, &Session::failed, [this](const QString& message) { failures << message; });
    }
    Session session{48'000};
    QStringList failures;
};

/// One triangle, with a material by name, in each of the formats that have files beside them.
void writeObj(const QTemporaryDir& folder)
{
    fixture::writeText(folder.filePath("hut.obj").toStdString(),
                       "mtllib hut colours.mtl\nv 0 0 0\nv 1 0 0\nv 0 1 0\nusemtl brick\nf 1 2 3\nusemtl glass\nf 1 3 2\n");
    fixture::writeText(folder.filePath("hut colours.mtl").toStdString(),
                       "newmtl brick\nmap_Kd -s 1 1 1 bricks.png\nnewmtl glass\n");
    fixture::writeText(folder.filePath("bricks.png").toStdString(), "a picture");
}

void writeGltf(const QTemporaryDir& folder)
{
    const float points[] = {0, 0, 0, 1, 0, 0, 0, 1, 0};
    fixture::writeText(folder.filePath("hut points.bin").toStdString(),
                       std::string(reinterpret_cast<const char*>(points), sizeof points));
    fixture::writeText(folder.filePath("hut.gltf").toStdString(), R"({"asset": {"version": "2.0"}, "scenes": [{"nodes": [0]}],
        "nodes": [{"mesh": 0, "name": "wall"}],
        "meshes": [{"primitives": [{"attributes": {"POSITION": 0}, "material": 0}]}], "materials": [{"name": "brick"}],
        "accessors": [{"bufferView": 0, "componentType": 5126, "count": 3, "type": "VEC3"}],
        "bufferViews": [{"buffer": 0, "byteLength": 36}],
        "buffers": [{"uri": "hut%20points.bin", "byteLength": 36}]})");
}

} // namespace

/// A project reads and writes in its own folder: what a stranger's document says is not enough to bring anything else in, and
/// everything that a person brings in comes whole.
class TestOwnFolder : public QObject
{
    Q_OBJECT

private slots:
    void whatADocumentNamesElsewhereIsNeverCopied()
    {
        QTemporaryDir home;
        const std::string file = home.filePath("id_key").toStdString();
        fixture::writeText(file, secret);
        QTemporaryDir folder;
        fixture::writeText(folder.filePath("project.json").toStdString(),
                           "{\"sounds\": [{\"file\": \"" + file + "\"}], \"levels\": [{\"geometry\": {\"file\": \"" + file +
                               "\"}, \"rooms\": [{\"reverb\": {\"response\": \"" + file +
                               "\"}}]}, {\"geometry\": {\"picture\": \"" + file + "\"}}]}");
        Desk desk;
        desk.session.open(folder.path().toStdString());
        desk.session.saveAs(folder.filePath("project.json").toStdString());
        QTemporaryDir elsewhere;
        desk.session.saveAs(elsewhere.filePath("copy").toStdString());
        QVERIFY(!anywhereBelow(folder.path(), secret));
        QVERIFY(!anywhereBelow(elsewhere.path(), secret));
        QCOMPARE(desk.session.project().sounds[0]->files[0].file, file); // nothing is lost either
        // Picked by hand, in this run, it is another matter.
        desk.session.relocateSound(desk.session.project().sounds[0]->id, 0, QString::fromStdString(file));
        QVERIFY(anywhereBelow(elsewhere.path(), secret));
    }

    void nothingIsWrittenThroughALink()
    {
        QTemporaryDir other;
        QTemporaryDir folder;
        fixture::writeText(folder.filePath("project.json").toStdString(), "{}");
        std::filesystem::create_directory_symlink(other.path().toStdString(), folder.filePath("sounds").toStdString());
        QTemporaryDir home;
        fixture::writeTone(home.filePath("bell.wav").toStdString(), 700.0, 0.1);
        Desk desk;
        desk.session.open(folder.path().toStdString());
        desk.session.addSounds({home.filePath("bell.wav")});
        QVERIFY(std::filesystem::is_empty(other.path().toStdString()));
        QVERIFY(desk.session.project().sounds.empty());
        QVERIFY2(desk.failures.join(' ').contains("leads outside the project's folder"), qPrintable(desk.failures.join(' ')));
        // The same on saving what was picked before there was a folder.
        desk.session.startNew();
        desk.session.addSounds({home.filePath("bell.wav")});
        QVERIFY_THROWS_EXCEPTION(FileError, desk.session.saveAs(folder.filePath("project.json").toStdString()));
        QVERIFY(std::filesystem::is_empty(other.path().toStdString()));
        QVERIFY(desk.session.changed());
    }

    void aLevelsOtherFilesComeAlong_data()
    {
        QTest::addColumn<QString>("main");
        QTest::addColumn<QStringList>("beside");
        QTest::newRow("glTF") << "hut.gltf" << QStringList{"hut points.bin"};
        QTest::newRow("OBJ") << "hut.obj" << QStringList{"hut colours.mtl", "bricks.png"};
    }

    void aLevelsOtherFilesComeAlong()
    {
        QFETCH(QString, main);
        QFETCH(QStringList, beside);
        QTemporaryDir home;
        writeGltf(home);
        writeObj(home);
        const auto read = [](const std::filesystem::path& file) { return importMesh(file, {}); };
        const Mesh before = read(home.filePath(main).toStdString());

        // Picked before the project has a folder; brought in by saving; taken along by saving elsewhere.
        Desk desk;
        const QString picked = desk.session.takeIn(home.filePath(main), "level");
        desk.session.edit(withLevel(desk.session.project(), desk.session.levelId(),
                                    [&](Level& level) {
                                        level.geometry = GeometryFile{picked.toStdString(), UpAxis::y, {}};
                                    }),
                          "level");
        QTemporaryDir first;
        desk.session.saveAs(first.filePath("one").toStdString());
        QTemporaryDir second;
        desk.session.saveAs(second.filePath("two").toStdString());
        QDir(home.path()).removeRecursively();
        for (const QString& folder : {first.filePath("one/level"), second.filePath("two/level")}) {
            for (const QString& file : beside) {
                QVERIFY2(QFile::exists(folder + '/' + file), qPrintable(folder + '/' + file));
            }
            const Mesh after = read((folder + '/' + main).toStdString());
            QCOMPARE(after.triangles.size(), before.triangles.size());
            QCOMPARE(after.materials, before.materials);
        }
    }

    /// Levels of one name with other things beside them do not mix.
    void filesBesideALevelKeepTheirNames()
    {
        QTemporaryDir folder;
        fixture::writeText(folder.filePath("project.json").toStdString(), "{}");
        QTemporaryDir home;
        writeGltf(home);
        QTemporaryDir other;
        writeGltf(other);
        fixture::writeText(other.filePath("hut points.bin").toStdString(), std::string(36, '\0'));
        Desk desk;
        desk.session.open(folder.path().toStdString());
        const QString one = desk.session.takeIn(home.filePath("hut.gltf"), "level");
        const QString same = desk.session.takeIn(home.filePath("hut.gltf"), "level");
        const QString two = desk.session.takeIn(other.filePath("hut.gltf"), "level");
        QCOMPARE(one, QString("level/hut.gltf"));
        QCOMPARE(same, one);
        QCOMPARE(two, QString("level/hut-2/hut.gltf"));
        QVERIFY(textIn(folder.filePath("level/hut points.bin").toStdString()) !=
                textIn(folder.filePath("level/hut-2/hut points.bin").toStdString()));
    }

    void whatALevelNamesOutsideItsFolderStaysThere()
    {
        QTemporaryDir home;
        fixture::writeText(home.filePath("id_key").toStdString(), secret);
        QDir(home.path()).mkdir("level");
        const std::string level = home.filePath("level/trap.gltf").toStdString();
        fixture::writeText(level, R"({"buffers": [{"uri": "../id_key"}, {"uri": "%2e%2e/id_key"}, {"uri": "link"}, {"uri": 3}],
            "images": [{"uri": "/etc/hostname"}, {"uri": "data:,x"}, null]})");
        std::filesystem::create_symlink("../id_key", home.filePath("level/link").toStdString());
        QVERIFY(filesBeside(level).empty());
    }

    void aRoomsResponseComesAlong()
    {
        QTemporaryDir folder;
        QDir(folder.path()).mkdir("responses");
        fixture::writeTone(folder.filePath("responses/hall.wav").toStdString(), 100.0, 0.2);
        fixture::writeText(folder.filePath("project.json").toStdString(),
                           R"({"levels": [{"rooms": [{"reverb": {"tail": "response", "response": "responses/hall.wav"}}]}]})");
        Desk desk;
        desk.session.open(folder.path().toStdString());
        QTemporaryDir elsewhere;
        desk.session.saveAs(elsewhere.filePath("copy").toStdString());
        QVERIFY(QFile::exists(elsewhere.filePath("copy/responses/hall.wav")));
    }

    void savingElsewhereNeverTakesAnotherProjectsFile()
    {
        QTemporaryDir folder;
        fixture::writeTone(folder.filePath("tone.wav").toStdString(), 480.0, 0.1);
        fixture::writeText(folder.filePath("project.json").toStdString(), R"({"sounds": [{"file": "tone.wav"}]})");
        QTemporaryDir elsewhere;
        fixture::writeTone(elsewhere.filePath("tone.wav").toStdString(), 333.0, 0.1);
        Desk desk;
        desk.session.open(folder.path().toStdString());
        desk.session.saveAs(elsewhere.filePath("project.json").toStdString());
        QCOMPARE(desk.session.project().sounds[0]->files[0].file, std::string("tone-2.wav"));
        QCOMPARE(textIn(elsewhere.filePath("tone-2.wav").toStdString()), textIn(folder.filePath("tone.wav").toStdString()));
    }

    void aFolderThatIsGoneIsSaid()
    {
        QTemporaryDir parent;
        const QString folder = parent.filePath("mine");
        QDir(parent.path()).mkdir("mine");
        fixture::writeTone((folder + "/tone.wav").toStdString(), 480.0, 0.1);
        fixture::writeText((folder + "/project.json").toStdString(), R"({"sounds": [{"file": "tone.wav"}]})");
        Desk desk;
        desk.session.open(folder.toStdString());
        QDir(folder).removeRecursively();
        try {
            desk.session.saveAs((folder + "/project.json").toStdString());
            QFAIL("it was saved without its sounds, and nobody heard of it");
        } catch (const FileError& error) {
            QVERIFY2(QString(error.what()).contains("the project's folder is gone"), error.what());
        }
        QVERIFY(!QFile::exists(folder));
        desk.session.saveAs(parent.filePath("rescued").toStdString());
        QVERIFY(QFile::exists(parent.filePath("rescued/rescued.stone-echo")));
    }

    void anEditThatCouldNotBeReadIsRefusedInWords()
    {
        Desk desk;
        desk.session.addSounds({});
        const auto before = desk.session.document();
        QSignalSpy shownAgain(&desk.session, &Session::documentChanged);
        Project next = *before;
        next.voices = 0;
        desk.session.edit(next, "No voices");
        QCOMPARE(desk.session.document(), before);
        QCOMPARE(desk.failures.size(), 1);
        QVERIFY2(desk.failures.front().startsWith("The project, voices: expected a whole number from 1 to 4096"),
                 qPrintable(desk.failures.front()));
        QVERIFY(desk.failures.front().endsWith("Nothing was changed"));
        QCOMPARE(shownAgain.size(), 1);
    }
};

} // namespace tst_own_folder

STONE_TEST(tst_own_folder, TestOwnFolder)
#include "tst_own_folder.moc"
