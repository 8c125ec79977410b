package rocrate

import (
	"testing"

	"boundcrate/core/text/format/formattest"
)

// sample is after the minimal example of RO-Crate 1.1, "Metadata of the RO-Crate".
const sample = `{ "@context": "https://w3id.org/ro/crate/1.1/context", "@graph": [
 {"@type": "CreativeWork", "@id": "ro-crate-metadata.json", "conformsTo": {"@id": "https://w3id.org/ro/crate/1.1"}, "about": {"@id": "./"}},
 {"@id": "./", "@type": "Dataset", "hasPart": [{"@id": "audio/keeper%20on%20fog.wav"}]},
 {"@id": "audio/keeper%20on%20fog.wav", "@type": ["File", "AudioObject"], "name": "keeper on fog"},
 {"@id": "https://example.org/x.csv", "@type": "File"}, {"@id": "#p", "@type": "File"} ] }`

func TestMentions(t *testing.T) {
	formattest.Table(t, Format{}, "ro-crate-metadata.json", sample, "used keeper on fog | audio/keeper%20on%20fog.wav", "used File | https://example.org/x.csv")
}

func FuzzRead(f *testing.F) {
	formattest.Fuzz(f, Format{}, "ro-crate-metadata.json", []byte(sample))
}
