package mail

import "time"

// The kinds of messages.
const (
	Invite  = "invite"
	Reset   = "reset"
	Code    = "code"
	Changed = "changed"
	Shared  = "shared"
	Review  = "review"
	Remind  = "remind"
	Said    = "said"
	Digest  = "digest"
	// Factor tells somebody that their second factor has changed.
	Factor = "factor"
)

// Pauses are how long it is at least from one message of a kind about the same thing to the same person to the next;
// what comes meanwhile is gathered in one.
var Pauses = map[string]time.Duration{Said: 15 * time.Minute, Shared: 10 * time.Minute, Review: 10 * time.Minute,
	Remind: time.Hour, Digest: time.Hour}

// texts are what is said in each, with the names of what they are given. Paragraphs are parted by empty lines. Subjects
// hold no codes: they show on locked screens, and servers note them.
var texts = map[string]struct{ subject, text string }{
	Invite: {"{{.By}} invites you to Plain Tracer", `
Hello {{.Name}},

{{.By}} invites you to map and review workflows together. Choose a password to begin:

{{.Link}}

The link is good once, until {{.Until}}. If you did not expect it, leave it be: nothing happens.
`},
	Reset: {"A new password for Plain Tracer", `
Hello {{.Name}},

somebody asked for a new password for this address. If it was you, choose one here:

{{.Link}}

The link is good once, until {{.Until}}. If it was not you, leave it be: your password stays as it is.
`},
	Changed: {"Your password was changed", `
Hello {{.Name}},

your password for Plain Tracer was changed on {{.When}}, and you were signed out everywhere else. If it was not you, ask for a new one at once, and tell an administrator:

{{.Link}}
`},
	Factor: {"Your second factor was {{.What}}", `
Hello {{.Name}},

{{.By}} has {{.Did}}. If you did not ask for that, choose another password at once, and tell an administrator. Your account:

{{.Link}}
`},
	Code: {"Your code for a map", `
Hello,

{{.Code}}

With this code you open the map that was shared with you. It is good for ten minutes. If you did not ask for it, leave it be.
`},
	Shared: {"{{.By}} has shared “{{.Title}}” with you", `
Hello {{.Name}},

{{.By}} has shared “{{.Title}}” with you. You may {{.Verb}} it:

{{.Link}}
`},
	Review: {"{{.By}} asks you to review {{.Title}}", `
Hello {{.Name}},

{{.By}} asks you to review {{.Title}}{{with .Until}} until {{.}}{{end}}.{{with .Word}}

{{.}}{{end}}{{with .May}}

You may {{.}} it from now on.{{end}}{{with .Changed}}

What changed since you were asked before:
{{.}}{{end}}

{{with .Link}}{{.}}{{else}}Whoever asks sends you the link.{{end}}
`},
	Remind: {"Reminder: {{.By}} asks you to review {{.Title}}", `
Hello {{.Name}},

{{.By}} is waiting for what you say of {{.Title}}{{with .Until}}, until {{.}}{{end}}.

{{with .Link}}{{.}}{{else}}The link is in the first message about it.{{end}}
`},
	Said: {"{{if eq (len .Items) 1}}{{.By}} says of {{.Title}}: {{.Verdict}}{{else}}{{len .Items}} answers about {{.Title}}{{end}}", `
Hello {{.Name}},
{{range .Items}}
{{.By}} says of {{.Title}}: {{.Verdict}}.{{with .Reason}}

{{.}}{{end}}{{with .So}}
So far: {{.}}.{{end}}
{{end}}
{{.Link}}
`},
	Digest: {"{{.Count}} you have not seen", `
Hello {{.Name}},

{{.Count}} on {{.Maps}} you have not seen yet. The latest:

{{.Link}}

Which of these messages you get is chosen under Your account.
`},
}
