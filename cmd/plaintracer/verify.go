package main

import (
	"fmt"
	"io"
	"slices"
	"strings"

	"github.com/spf13/cobra"

	"plaintracer/store"
)

// verifying is the command that looks through the logs of the rounds of review.
func verifying() *cobra.Command {
	var data string
	c := &cobra.Command{Use: "verify [SHA-256...]",
		Short: "Check that what was said in rounds of review is as it was written, while the application runs or not",
		Long: "Check the log of every round of review: that no entry was changed or left out, and that who said\n" +
			"what, the version that was asked about and the end of the round are as it says. Whoever could write the data\n" +
			"folder could write a whole log anew; a hash that stands in a record that was filed before tells that too.",
		Example: "  plaintracer verify --data /var/lib/plaintracer\n  plaintracer verify 5f0c…  # the last hash of the log, as the filed record gives it",
		RunE: func(c *cobra.Command, args []string) error {
			s, err := store.OpenBeside(data)
			if err != nil {
				return err
			}
			defer s.Close()
			return verify(s, c.OutOrStdout(), args)
		}}
	c.Flags().StringVar(&data, "data", "data", "folder that keeps the maps")
	return c
}

func verify(s *store.Store, out io.Writer, filed []string) error {
	list, err := s.Rounds.Verify()
	if err != nil {
		return err
	}
	titles := map[string]string{}
	for _, binned := range []bool{false, true} {
		maps, err := s.Maps.List("", binned)
		if err != nil {
			return err
		}
		for _, m := range maps {
			titles[m.ID] = m.Title
		}
	}
	wrong := 0
	var heads []string
	for _, c := range list {
		said := "as it was written"
		switch {
		case len(c.Faults) > 0:
			said = strings.Join(c.Faults, "; ")
			wrong++
		case c.Entries == 0:
			said = "from before there were logs"
		}
		heads = append(heads, c.Head)
		fmt.Fprintf(out, "%s, round %d: %d entries, %s\n", titles[c.Map], c.Number, c.Entries, said)
	}
	for _, hash := range filed {
		i := slices.Index(heads, strings.ToLower(hash))
		if i < 0 {
			fmt.Fprintf(out, "no log of a round ends with %s\n", hash)
			wrong++
			continue
		}
		fmt.Fprintf(out, "%s is the end of the log of round %d of %s\n", hash, list[i].Number, titles[list[i].Map])
	}
	if wrong > 0 {
		return fmt.Errorf("%d of what was checked is not as it was written", wrong)
	}
	return nil
}
