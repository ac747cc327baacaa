// SPDX-License-Identifier: GPL-3.0-or-later
#include "project/file_error.h"
#include "project/read.h"
#include "project/write.h"
#include "support/one_of_many.h"
#include "support/random_project.h"

#include <QFile>
#include <QTest>

#include <nlohmann/json.hpp>

#include <map>
#include <optional>
#include <set>

namespace tst_schema
{

using namespace stone;
using Json = nlohmann::ordered_json;

/// docs/project.schema.json and the reader say the same of every field: which there are, the ranges of the numbers, the words.
class TestSchema : public QObject
{
    Q_OBJECT

    Json schema_;

    /// A place in a document, and what the schema says of it: several pieces where it is put together of parts.
    struct Field {
        std::string pointer;
        std::vector<const Json*> said;
    };

    void addPieces(const Json& piece, std::vector<const Json*>& pieces) const
    {
        pieces.push_back(&piece);
        if (piece.contains("$ref")) {
            addPieces(schema_.at(Json::json_pointer(piece["$ref"].get<std::string>().substr(1))), pieces);
        }
        for (const char* parts : {"allOf", "anyOf"}) {
            if (piece.contains(parts)) {
                for (const Json& part : piece[parts]) {
                    addPieces(part, pieces);
                }
            }
        }
    }

    std::vector<const Json*> piecesOf(const std::vector<const Json*>& around, const std::string& key, bool list) const
    {
        std::vector<const Json*> pieces;
        for (const Json* piece : around) {
            if (list) {
                if (piece->contains("items")) {
                    addPieces((*piece)["items"], pieces);
                }
            } else if (piece->contains("properties") && (*piece)["properties"].contains(key)) {
                addPieces((*piece)["properties"][key], pieces);
            } else if (piece->contains("additionalProperties") && (*piece)["additionalProperties"].is_object()) {
                addPieces((*piece)["additionalProperties"], pieces);
            }
        }
        return pieces;
    }

    /// All fields of a document that are neither lists nor objects. `unknown`: keys that the schema has nothing about.
    void collect(const Json& value, const Field& at, std::vector<Field>& fields, std::set<std::string>& unknown) const
    {
        if (!value.is_structured()) {
            fields.push_back(at);
            return;
        }
        for (const auto& [key, inside] : value.items()) {
            Field field{at.pointer + "/" + key, piecesOf(at.said, key, value.is_array())};
            if (field.said.empty() && isOurs(key)) {
                unknown.insert(at.pointer + "/" + key);
            }
            if (!field.said.empty()) {
                collect(inside, field, fields, unknown);
            }
        }
    }

    /// Random documents also have keys of a version that is yet to come.
    static bool isOurs(const std::string& key) { return key != "later" && key.rfind("key/", 0) != 0; }

    static std::optional<Json> of(const Field& field, const char* what)
    {
        for (const Json* piece : field.said) {
            if (piece->contains(what)) {
                return (*piece)[what];
            }
        }
        return {};
    }

    /// What the reader has against a document in which one field is another; empty: nothing that the field alone is to blame
    /// for.
    static QString against(const Json& document, const std::string& pointer, const Json& value)
    {
        Json changed = document;
        changed[Json::json_pointer(pointer)] = value;
        try {
            readProjectText(changed.dump(), "x");
        } catch (const FileError& error) {
            const QString message = error.what();
            // Of a list of numbers it is the list that is told. What else it may have to do with is not the field's fault.
            const QString field = QString::fromStdString(pointer);
            const bool here =
                message.contains("at " + field + ":") || message.contains("at " + field.section('/', 0, -2) + ":");
            return here && (message.contains("expected") || message.contains("never below")) ? message : QString();
        }
        return {};
    }

    static QString shown(const Field& field, const Json& value, const QString& message)
    {
        return QString("%1 as %2: %3").arg(field.pointer.c_str(), value.dump().c_str(), message);
    }

private slots:
    void initTestCase()
    {
        QFile file(SCHEMA);
        QVERIFY(file.open(QIODevice::ReadOnly));
        schema_ = Json::parse(file.readAll().toStdString());
        QCOMPARE(schema_["properties"]["stone_echo"]["maximum"].get<int>(), documentVersion);
    }

    void theReaderAndTheSchemaAgree()
    {
        std::set<std::string> unknown;
        std::set<const Json*> tried; // each place of the schema once
        QStringList wrong;
        int numbers = 0;
        int words = 0;
        for (unsigned seed = 1; seed <= 40; ++seed) {
            const Json document = Json::parse(projectText(fixture::randomProject(seed)));
            Field root{"", {}};
            addPieces(schema_, root.said);
            std::vector<Field> fields;
            collect(document, root, fields, unknown);
            for (const Field& field : fields) {
                if (!tried.insert(field.said.front()).second) {
                    continue;
                }
                const auto least = of(field, "minimum");
                const auto most = of(field, "maximum");
                for (const auto& [bound, beyond] : {std::pair(least, -1.0), std::pair(most, 1.0)}) {
                    if (!bound || field.pointer == "/stone_echo") {
                        continue; // versions have a message of their own
                    }
                    ++numbers;
                    if (const QString message = against(document, field.pointer, *bound); !message.isEmpty()) {
                        wrong << shown(field, *bound, message);
                    }
                    // By a thousandth of what there is, or a whole one.
                    const Json outside =
                        bound->is_number_integer() && of(field, "type") == Json("integer")
                            ? Json(bound->get<std::int64_t>() + static_cast<std::int64_t>(beyond))
                            : Json(bound->get<double>() + beyond * std::max(1e-3, std::abs(bound->get<double>()) * 1e-3));
                    if (against(document, field.pointer, outside).isEmpty()) {
                        wrong << shown(field, outside, "the reader takes it, the schema does not");
                    }
                }
                if (const auto known = of(field, "enum")) {
                    ++words;
                    for (const Json& word : *known) {
                        if (const QString message = against(document, field.pointer, word); !message.isEmpty()) {
                            wrong << shown(field, word, message);
                        }
                    }
                    if (against(document, field.pointer, "no such word").isEmpty()) {
                        wrong << shown(field, "no such word", "the reader takes it");
                    }
                }
            }
        }
        for (const std::string& key : unknown) {
            wrong << QString("%1 is written, and the schema does not know it").arg(key.c_str());
        }
        qInfo("%d bounds and %d lists of words", numbers, words);
        QVERIFY2(wrong.isEmpty(), qPrintable('\n' + wrong.join('\n')));
        QVERIFY(numbers > 150 && words > 20);
    }
};

} // namespace tst_schema

STONE_TEST(tst_schema, TestSchema)
#include "tst_schema.moc"
