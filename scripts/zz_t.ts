import '../headless/kernels';
import { refinedMatte, matteColours } from '../src/core/matte/matte';
import { newPicture, newPlane } from '../src/core/raster/picture';
const [W,H]=[64,48]; const p=newPicture(W,H), d=newPlane(W,H);
for(let i=0;i<W*H;i++){p.data.set(i%W<32?[.6,.3,.1,1]:[.1,.2,.6,1],i*4); d.data[i]=i%W<32?2:8;}
for(let k=0;k<3;k++){let t=performance.now(); const m=refinedMatte(p,d,{from:0,to:4,near:0,far:0}); console.log('matte',performance.now()-t); t=performance.now(); matteColours(p,m); console.log('colours',performance.now()-t);}
