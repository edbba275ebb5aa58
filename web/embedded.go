package web

import (
	"embed"
)

//go:embed static core views
var files embed.FS
