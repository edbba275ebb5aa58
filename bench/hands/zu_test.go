package hands
import ("testing";"fmt";"time";"plaintracer/bench/processes";"plaintracer/core/layout";"plaintracer/core/diagram";"os";"plaintracer/exchange/tracerjson")
func TestZU(t *testing.T) {
	for _,steps:=range []int{20,50,100,200} { for _,paper:=range []string{"long","A3","A2"} { 
		tot,bends:=0,0; ar,as:=0.0,0.0; x:=time.Now(); fits:=0
		for seed:=uint64(0);seed<10;seed++ { g:=processes.Make(seed,processes.Shape{Steps:steps}); m:=g.Map(); w:=layout.Wish{Long: paper=="long"}
			if paper!="long" { m.Sheets[0].Paper=paper }
			e:=layout.Find(m,m.Sheets[0],w); if _,err:=diagram.Apply(m,e);err!=nil{t.Fatal(err)}
			s:=scoreOf(m); tot+=s.Crossings; bends+=s.Bends; ar+=s.Area/1e6; d:=m.Sheets[0].Drawn(); as+=float64(d.W)/float64(d.H)
			if m.Sheets[0].Area().Holds(d) { fits++ }
			if seed==2 { w,_:=tracerjson.Write(m); os.WriteFile(fmt.Sprintf("/tmp/zz/gen%d%s.tracer.json",steps,paper),w,0o644) } }
		fmt.Println(steps,paper,"bends",bends,"cross",tot,"area",ar/10,"aspect",as/10,"fits",fits,time.Since(x)/10) } }
}
