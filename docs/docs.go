// Package docs holds the guide, which the application shows as its help.
package docs

import "embed"

// Files are the guide and its pictures.
//
//go:embed guide.md screenshots/*.png
var Files embed.FS
