package picturefile

import (
	"context"
	"testing"

	"plaintracer/core/pictures"
)

func TestX(t *testing.T) {
	p, err := pictures.Read([]byte(`<svg xmlns="http://www.w3.org/2000/svg" width="100" height="50"><rect width="50" height="50" fill="#ff0000"/><text x="5" y="40" font-family="Nowhere">Hallo</text><text x="5" y="20">Hallo</text></svg>`))
	if err != nil {
		t.Fatal(err)
	}
	img, err := Bitmap(context.Background(), &p, 200, 100)
	if err != nil {
		t.Fatal(err)
	}
	t.Log(img.At(50, 5), img.At(150, 50))
}
