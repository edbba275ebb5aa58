package hands
import ("testing";"fmt";"plaintracer/bench/processes";"plaintracer/core/layout";"plaintracer/core/diagram";"sort")
func TestZS(t *testing.T) {
	for _,steps:=range []int{20,50,100,200,500} { var a,b,c []float64
		for seed:=uint64(0);seed<10;seed++ { m:=processes.Make(seed,processes.Shape{Steps:steps}).Map(); for _,c:=range m.Sheets[0].Connectors {c.Text=""}
			diagram.Apply(m,layout.Find(m,m.Sheets[0],layout.Wish{Long:true})); s:=scoreOf(m); a=append(a,s.Area/1e6); b=append(b,float64(s.Bends)); c=append(c,float64(s.Crossings)) }
		for _,l:=range [][]float64{a,b,c} { sort.Float64s(l); fmt.Print((l[4]+l[5])/2," ") }; fmt.Println(steps) }
}
