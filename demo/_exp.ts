import { readFileSync, writeFileSync } from 'node:fs';
import sharp from 'sharp';
import { estimateDepth } from '../src/core/estimate/estimate';
import { orderScore, spearman } from '../src/core/estimate/score';
const w=512,h=288; const P=(f:(x:number,y:number)=>number)=>({width:w,height:h,data:Float32Array.from({length:w*h},(_,i)=>f(i%w,Math.floor(i/w)))});
const ramp=P((x,y)=>y/h), centre=P((x,y)=>y/h+0.6*Math.exp(-(((x/w-.5)/.3)**2+((y/h-.5)/.3)**2))), constant=P(()=>.5);
let tot=[0,0,0,0]; const q=(process.argv[2]??'fine') as any; const imgs:any[]=[];
const names=['chartTable','quayLamp','figurehead','dunes'];
for (const n of names){ const rgb=new Uint8Array(readFileSync(`/tmp/x/${n}.rgb`)); const b=readFileSync(`/tmp/x/${n}.d`); const d={width:w,height:h,data:new Float32Array(b.buffer.slice(b.byteOffset,b.byteOffset+b.byteLength))};
 const t=performance.now(); const m=estimateDepth({width:w,height:h,channels:3,data:rgb},q)!; const ms=performance.now()-t;
 const s=[orderScore(m,d),orderScore(ramp,d),orderScore(centre,d),orderScore(constant,d)]; s.forEach((v,i)=>tot[i]+=v/4);
 console.log(n.padEnd(12),s.map(v=>v.toFixed(3)).join(' '),'rho',spearman(m,d).toFixed(3),spearman(ramp,d).toFixed(3),ms.toFixed(0)+'ms');
 const near=d.data.reduce((a:number,b:number)=>Math.min(a,b),1e9); imgs.push(await sharp(Uint8Array.from(m.data,v=>v*255),{raw:{width:m.width,height:m.height,channels:1}}).resize(512,288).png().toBuffer(), await sharp(Uint8Array.from(d.data,v=>255*Math.pow(near/v,0.6)),{raw:{width:w,height:h,channels:1}}).png().toBuffer());
}
console.log('mean',tot.map(v=>v.toFixed(3)).join(' '));
await sharp({create:{width:1024,height:1152,channels:3,background:'#000'}}).composite(imgs.map((input,i)=>({input,left:(i%2)*512,top:Math.floor(i/2)*288}))).png().toFile('/tmp/x/out.png');
