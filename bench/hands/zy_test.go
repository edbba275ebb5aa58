package hands
import ("testing";"fmt";"plaintracer/bench/processes";"plaintracer/bench/score";"plaintracer/core/layout";"plaintracer/core/diagram";"plaintracer/core/scene";"plaintracer/core/geometry")
func scoreOf(m *diagram.Map) score.Score {
	d := scene.Draw(m, m.Sheets[0]); const px=geometry.Px
	at := map[string]int{}
	var out score.Drawing
	for i, sym := range d.Sheet.Symbols { at[sym.ID]=i; out.Nodes=append(out.Nodes, score.Box{X: float64(sym.X) / px, Y: float64(sym.Y) / px, W: float64(sym.W) / px, H: float64(sym.H) / px}) }
	for i, c := range d.Courses { con:=d.Sheet.Connectors[i]; e := score.Edge{From: at[con.From.Symbol], To: at[con.To.Symbol]}
		for _,p:=range c.Points { e.Points=append(e.Points, score.Point{float64(p.X)/px,float64(p.Y)/px}) }; out.Edges=append(out.Edges,e) }
	return score.Of(out)
}
func TestZY(t *testing.T) {
	for _,h:=range All(){ if a,b:=scoreOf(h.Map()).Touching, scoreOf(h.LaidOut()).Touching; a+b>0 { fmt.Println(h.Name,a,b) } }
	for _,steps:=range []int{20,50,100} { for _,lanes:=range []int{0,4} { tot:=0; bends,cross:=0,0; ar:=0.0
		for seed:=uint64(0);seed<10;seed++ { g:=processes.Make(seed,processes.Shape{Steps:steps,Lanes:lanes}); m:=g.Map()
			e:=layout.Find(m,m.Sheets[0],layout.Wish{Long:true}); if _,err:=diagram.Apply(m,e);err!=nil{t.Fatal(err)}
			s:=scoreOf(m); tot+=s.Touching; bends+=s.Bends; cross+=s.Crossings; ar+=s.Area }
		fmt.Println(steps,lanes,"touching",tot,"bends",bends,"cross",cross,"area",ar/1e6) } }
}
