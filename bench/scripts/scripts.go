// Package scripts gives tests a folder with fonts of other scripts in which they know what there is, whatever fonts the
// machine has: Arabic, Hebrew, Devanagari and Thai, of Debian's package fonts-noto-core, and no other.
package scripts

import (
	"fmt"
	"os"
	"path/filepath"
)

// from is where the package puts its fonts.
const from = "/usr/share/fonts/truetype/noto"

var names = []string{"NotoSansArabic-Regular.ttf", "NotoSansHebrew-Regular.ttf", "NotoSansDevanagari-Regular.ttf",
	"NotoSansThai-Regular.ttf"}

// Folder makes a new folder with the fonts. Whoever asks for it removes it.
func Folder() (string, error) {
	dir, err := os.MkdirTemp("", "fonts")
	if err != nil {
		return "", err
	}
	for _, name := range names {
		data, err := os.ReadFile(filepath.Join(from, name))
		if err == nil {
			err = os.WriteFile(filepath.Join(dir, name), data, 0o600)
		}
		if err != nil {
			os.RemoveAll(dir)
			return "", fmt.Errorf("%w; tools/need-programs.sh installs what the tests need", err)
		}
	}
	return dir, nil
}
