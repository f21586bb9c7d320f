import { deriveSlice, impliedColumns, calendarById, instantOf, priceContract, expiryInstant, americanExpiry } from '../src';
import { emptySide } from '../src/chain/snapshot';
const calendar = calendarById('MRX'); const asof = instantOf(calendar,'2031-03-13','15:45');
const terms={kind:'equity',exercise:'american',calendar,rates:{days:[1,400],rate:[.042,.042]},dividends:[]} as const;
function slice(expiry: string, S: number, q: number){ const years=(expiryInstant(calendar,expiry,'pm')-asof)/60000/525600; const strike=Float64Array.from({length:25},(_,i)=>S*(.7+.025*i)); const vols=Array.from(strike,k=>.25-.15*Math.log(k/S)); const x=americanExpiry({spot:S,years,rate:.042,yield:q},.1,.6);
 const side=(sign:1|-1)=>{const s=emptySide(25); strike.forEach((k,i)=>{const p=priceContract({model:'american',side:sign>0?'call':'put',spot:S,strike:k,years,rate:.042,yield:q,vol:vols[i]!}).price; s.bid[i]=Math.max(0,p-.03); s.ask[i]=p+.03; s.volume[i]=1;}); return s;}; void x;
 return {slice:{expiry,settlement:'pm' as const,strike,call:side(1),put:side(-1)},years,vols}; }
for (const [e,q] of [['2031-03-21',.02],['2031-04-17',.03],['2031-09-18',.05],['2032-03-18',0],['2032-03-18',.08]] as const){ const m=slice(e,100,q); const snap={symbol:'T',asof,price:100,slices:[m.slice]}; const f=deriveSlice(m.slice,snap,terms); const F=100*Math.exp((.042-q)*m.years);
 const on={kind:'equity',exercise:'american',spot:100} as const; const p=impliedColumns(m.slice.strike,m.slice.put,f,-1,on), c=impliedColumns(m.slice.strike,m.slice.call,f,1,on);
 console.log(e,q,'F',F,f.forward,f.forwardUncertainty,'atm',f.atmVol, 'put err',Math.max(...m.vols.map((v,i)=>m.slice.strike[i]!<F?Math.abs(p.mid[i]!-v):0)),'call err',Math.max(...m.vols.map((v,i)=>m.slice.strike[i]!>F?Math.abs(c.mid[i]!-v):0)), [...p.reason].join(''),[...c.reason].join(''));
 if(e==='2031-09-18'){ for(const i of [2,8,12,16]) for (const [n,sign,v] of [['put',-1,p],['call',1,c]] as const) for (const qn of ['bid','ask'] as const){ const {impliedVol}=await import('../src'); const r=impliedVol({model:'american',side:n,spot:100,strike:m.slice.strike[i]!,years:m.years,rate:.042,yield:.042-Math.log(f.forward/100)/m.years,price:m.slice[n][qn][i]!}); console.log(i,n,qn,v[qn][i],'vol' in r?r.vol:r.reason, sign); } }
 for(let r=0;r<3;r++){const b=performance.now(); for(let i=0;i<50;i++) deriveSlice(m.slice,{...snap,price:100+i*1e-7},terms); console.log('ms',(performance.now()-b)/50);} 
 const b=performance.now(); for(let i=0;i<50;i++) deriveSlice(m.slice,{...snap,price:100+i*1e-7},{...terms,exercise:'european'}); console.log('european ms',(performance.now()-b)/50);
}
