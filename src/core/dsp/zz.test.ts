import { SeededRandom } from '../math/random';
import { Arena } from '../wasm/arena';
import { FeedbackNetwork } from './feedbackNetwork';
import { octaveDecay, denseAfter } from '../analysis/decay';
const RATE=48000;
function net(lines:number, mem:Arena){ return new FeedbackNetwork(mem, RATE, lines, 0.6*RATE, new SeededRandom(5)); }
function render(n:FeedbackNetwork, mem:Arena, seconds:number){
  const L=mem.doubles(128),R=mem.doubles(128),l=mem.doubles(128),r=mem.doubles(128); const out=new Float64Array(seconds*RATE), o2=new Float64Array(seconds*RATE);
  for(let at=0;at+128<=out.length;at+=128){ L.fill(0);R.fill(0); if(at===0){L[0]=1;R[0]=1;} n.process(L,R,l,r,128); out.set(l,at);o2.set(r,at);} return [out,o2];
}
it.each([8,16,32])('rt %d', (lines)=>{
  for (const rt of [0.3,2,8]) {
    const mem=new Arena(); const n=net(lines,mem);
    const random=new SeededRandom(9);
    for(let i=0;i<lines;i++) n.lengths[i]=Math.round(RATE*20/343*(0.6*2.6**((i+random.uniform())/lines)));
    n.losses.fill(-60/(rt*RATE)); n.turnDepth=0.5; n.swayDepth=10; n.swingHz=0.5;
    n.reset();
    const out=render(n,mem,Math.min(rt*1.3,6));
    console.log(lines, rt, [125,250,500,1000,2000,4000,8000].map(c=>((octaveDecay(out,c,RATE).t30??NaN)/rt).toFixed(3)).join(' '), denseAfter(out[0]!,RATE,0), out[0]!.reduce((s,x)=>s+x*x,0), out[0]!.reduce((s,x,i)=>s+x*out[1]![i]!,0));
    mem.free();
  }
});
it.each([8,16,32])('speed %d', (lines)=>{
  for (const sway of [0,10]) for(const flat of [true,false]){
    const mem=new Arena(); const n=net(lines,mem); const random=new SeededRandom(9);
    for(let i=0;i<lines;i++) n.lengths[i]=Math.round(RATE*20/343*(0.6*2.6**((i+random.uniform())/lines)));
    n.losses.fill(-60/(2*RATE)); if(!flat) for(let b=0;b<9;b++) n.losses[b]=n.losses[b]!*(1+0.1*b*(b&1)); n.turnDepth=sway?0.5:0; n.swayDepth=sway; n.reset();
    render(n,mem,2); const t=performance.now(); render(n,mem,20); const d=(performance.now()-t)/1000;
    console.log(lines,'sway',sway,'flat',flat,(20/d).toFixed(0)); mem.free();
  }
});
