package main

import (
	"fmt"
	"path/filepath"
	"strings"

	"github.com/spf13/cobra"
)

// registering is the command that writes the register of a map as a table.
func registering() *cobra.Command {
	var separator string
	c := &cobra.Command{Use: "register IN OUT", Short: "Write the register of a map as a table: CSV, XLSX or ODS",
		Args:    cobra.ExactArgs(2),
		Long:    "Write the register of a map as a table: the steps with their numbers, what comes next, and the map's own fields. The ids of the steps stand in the last column; by them a table that was filled in elsewhere is read back in the editor.",
		Example: "  plaintracer register street-light.tracer.json steps.xlsx\n  plaintracer register street-light.tracer.json steps.csv --separator semicolon",
		RunE: func(c *cobra.Command, args []string) error {
			format := map[string]string{".csv": "register-csv", ".tsv": "register-csv",
				".xlsx": "register-xlsx", ".ods": "register-ods"}[strings.ToLower(filepath.Ext(args[1]))]
			if format == "" {
				return fmt.Errorf("%s: a register is written as .csv, .tsv, .xlsx or .ods", args[1])
			}
			if strings.EqualFold(filepath.Ext(args[1]), ".tsv") {
				separator = "tab"
			}
			return export(c, args[0], args[1:], format, func(name string) (string, bool) {
				return separator, name == "separator" && separator != ""
			})
		}}
	c.Flags().StringVar(&separator, "separator", "",
		"what stands between the cells of a CSV file: a comma, unless it is semicolon or tab")
	return c
}
