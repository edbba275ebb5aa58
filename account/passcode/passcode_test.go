package passcode

import (
	"encoding/base64"
	"os/exec"
	"strings"
	"testing"
)

// The hash is that of the reference implementation (Debian's argon2, RFC 9106).
func TestAsTheReference(t *testing.T) {
	program, err := exec.LookPath("argon2")
	if err != nil {
		t.Fatal("argon2 is missing: tools/need-programs.sh installs it")
	}
	hash := Hash("seven grey lamp posts")
	parts := strings.Split(hash, "$")
	salt, err := base64.RawStdEncoding.DecodeString(parts[4])
	if err != nil || len(salt) != 16 {
		t.Fatalf("the salt of %s: %v", hash, err)
	}
	// The program takes its salt as an argument, which cannot hold every byte: another one, by the same function.
	const readable = "sixteen letters!"
	want := parts[0] + "$" + parts[1] + "$" + parts[2] + "$" + parts[3] + "$" + plain([]byte(readable)) + "$" +
		plain(key("seven grey lamp posts", []byte(readable), passes, memory, lanes, length))
	cmd := exec.Command(program, readable, "-id", "-t", "3", "-k", "65536", "-p", "4", "-l", "32", "-e")
	cmd.Stdin = strings.NewReader("seven grey lamp posts")
	out, err := cmd.Output()
	if err != nil || strings.TrimSpace(string(out)) != want {
		t.Errorf("the reference says %s, %v; ours is %s", out, err, want)
	}
	if !Matches("seven grey lamp posts", strings.TrimSpace(string(out))) || !Matches("seven grey lamp posts", hash) ||
		Matches("seven grey lamp post", hash) {
		t.Error("a hash does not fit its word, or fits another")
	}
	for _, broken := range []string{"", "x", "$argon2id$v=19$m=65536,t=3,p=4$$",
		"$argon2id$v=19$m=4294967295,t=3,p=4$AAAA$AAAA", "$argon2i$v=19$m=65536,t=3,p=4$" + parts[4] + "$" + parts[5]} {
		if Matches("", broken) {
			t.Errorf("%q fits", broken)
		}
	}
}

// A sign-in costs at least 50 ms of work, which whoever guesses has to spend as well.
func BenchmarkHash(b *testing.B) {
	for b.Loop() {
		Hash("seven grey lamp posts")
	}
}
