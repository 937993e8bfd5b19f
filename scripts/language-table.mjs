// What expressions of the language come to, as an engine says: writes crates/deft-pin-core/tests/language.txt anew.
// node scripts/language-table.mjs
import { writeFileSync } from "node:fs";

const texts = ["'Sorrel Sound'","'  a b '","''","'a,b,,c'","'ÄöX'","'0x1f'","'12.50'","'x'.repeat(3)","'$1 & <b>'","'line\\nx'"];
const textMethods = ["trim()","toUpperCase()","toLowerCase()","length","slice(1,-1)","slice(-3)","substring(3,1)","substr(-2,1)","charAt(1)","at(-1)","indexOf('o')","lastIndexOf('o')","includes('S')","startsWith('S')","endsWith('d')","split('').length","split(',').join('|')","split(' ').length","split(',',2).join('|')","replace('o','0')","replaceAll('o','0')","replace(/o/g,'[$&]')","replace(/(\\w)(\\w)/,'$2$1')","padStart(14,'*')","padEnd(14)","repeat(2)","concat('!',1)","search(/[a-z]/)","charCodeAt(0)","codePointAt(0)","normalize('NFC')","trimStart().length","trimEnd().length","localeCompare('a')>0","match(/o/g)===null","match(/(\\w)(\\w)/)?.[2]","match(/\\d+/)?.[0]","split(/[, ]/).length","substring(2)","substring(-1,2)","toString()","valueOf()","isWellFormed()","[0]","[20]","split('').reverse().join('')","split('').sort().join('')","split('').map(c=>c.charCodeAt(0)).reduce((a,b)=>a+b,0)","split('').filter(c=>c>'a').length","split(' ').map(w=>w[0]).join('')","replace(/\\s+/g,'-').toLowerCase()","match(/[A-Z]/g)?.length ?? 0"];
const arrays = ["[3,1,2]","[]","['b','a','C']","[1,[2,[3]],4]","[true,null,undefined,'x']","[10,9,1]","Array.from({length:3},(_, i)=>i*i)","[...'abc']","[1,2,3,4,5,6]","Object.keys({b:1,a:2})","'a-b'.split('-')"];
const arrayMethods = ["length","join()","join('-')","slice(1).join()","slice(-2).join()","slice().sort().join()","slice().reverse().join()","concat([9],8).join()","indexOf(1)","includes(2)","map(x=>x+1).join()","filter(Boolean).length","reduce((a,b)=>a+b,0)","reduceRight((a,b)=>a+'/'+b,'')","find(x=>x>1)","findIndex(x=>x>1)","findLast(x=>x>1)","some(x=>x===1)","every(x=>x)","flat().join()","flat(Infinity).length","flatMap(x=>[x,x]).length","at(-1)","at(9)","fill(0).join()","with?.(0,7).join()","toSorted?.().join()","toReversed?.().join()","toSpliced?.(0,1).join()","entries().next().value?.[0]","keys().next().value","lastIndexOf(1)","toString()","splice(1,1).join()","copyWithin(0,1).join()","sort((a,b)=>b-a).join()","push(5)","pop()","shift()","unshift(0)","map(String).join('')","map(Number).length","map((x,i)=>i).join()","forEach(x=>x)","[1]","[-1]"];
const numbers = ["5","-3.7","0","12.5","1e3","0.1+0.2","NaN","1/0","255","-0","2**31","7%3","'7'*1","+'' ","~5","1<<3","-1>>>28","5&3","5^3","null+1","true+true","undefined+1","'5'-2","'5'+2","[]+1","10/4"];
const numberMethods = ["toFixed(0)","toFixed(2)","toString()","toString(2)","toString(16)","valueOf()"];
const functions = ["round","floor","ceil","trunc","abs","sign","sqrt","cbrt","log2","log10","exp","sin","fround","clz32","atan"];
const others = ["parseInt('12px')","parseInt('ff',16)","parseInt('0b1')","parseInt(' 42 ')","parseInt('1e3')","parseFloat('3.14abc')","parseFloat('.5')","parseFloat('-.5e1')","parseFloat('abc')","parseFloat('1.2.3')","parseFloat('Infinityx')","Number('12 ')","Number('')","Number('0b11')","Number('1e3')","Number(null)","Number([])","Number([7])","Number('1_000')","Number(false)","Number('-Infinity')","isNaN('x')","isNaN('')","isFinite('5')","Number.isNaN('x')","Number.isInteger(5.0)","Number.isInteger('5')","Number.isSafeInteger(2**53)","Number.parseFloat('2.5x')","Number.EPSILON>0","Math.max(1,'3',2)","Math.max()","Math.min()","Math.max(1,NaN)","Math.max(...[1,9,3])","Math.hypot(3,4)","Math.pow(2,-1)","Math.atan2(0,1)","String(undefined)","String([1,[2,3]])","String({})","String(-0)","`${[1,2]}`","`${null}`","''+{}","''+[]","''+function(){}===''","typeof NaN","typeof []","typeof null","typeof function(){}","!!'0'","!!NaN","!!{}","null==0","null>=0","undefined==null","'b'>'a'","'10'<'9'","10<'9'","[1]==1","[1,2]=='1,2'","({})=='[object Object]'","NaN!=NaN","'1'===1","void 0","(1,2)","1&&2","0||'x'","''??'y'","null??'z'","[1,2,3].length=== 3","[,1].length","[,1][0]","Object.keys({2:1,1:1,b:1,a:1}).join()","Object.values({x:1,y:2}).join()","Object.entries({x:1}).join()","Object.assign({a:1},{b:2}).b","({...{a:1},a:2}).a","Object.fromEntries([['a',1]]).a","'a' in {a:1}","1 in [5,6]","delete {a:1}.a","JSON.stringify({a:[1,'x',null,undefined],b:undefined,c(){},d:NaN})","JSON.stringify('a\"b')","JSON.stringify([undefined])","JSON.stringify({a:1},null,2).length","JSON.stringify({b:1,a:2},['a'])","JSON.parse('[1,{\"a\":2}]')[1].a","JSON.parse('\"x\"')","JSON.stringify(new Date(0))","JSON.stringify({d:new Date(86400000)})","JSON.stringify(Infinity)","JSON.stringify(null)","JSON.stringify(undefined)","encodeURIComponent('a b&c/ü')","encodeURI('a b&c/ü')","decodeURIComponent('a%20b%C3%BC')","decodeURI('%2F%20')","escape('ü ')","unescape('%FC')","btoa('abc')","atob('YWJj')","new Date(0).toISOString()","new Date(Date.UTC(2026,1,29)).getUTCDate()","new Date('2026-11-26').getTime()","new Date('2026-11-26T10:00:00Z').getUTCHours()","new Date(2026,10,26).getDay()","new Date(2026,0,31,25).getDate()","new Date(2026,1,0).getDate()","Date.UTC(2000,0)","new Date(NaN).getFullYear()","[...new Set([1,1,2])].length","new Map([['a',1]]).get('a')","[...new Map([['a',1]])][0][1]","new Set('hello').size","Array.isArray([])","Array.of(7).length","Array(3).length","Array(3).join('-')","Array.from('abc',c=>c+c).join()","[...Array(3).keys()].join()","[3,1,2].sort().join()","['B','a'].sort().join()","[10,9].sort()[0]","[1,2,3].indexOf('2')","[NaN].includes(NaN)","[NaN].indexOf(NaN)","(()=>{try{return 1}finally{}})()","(function(){return arguments.length})(1,2,3)","((a,b=2)=>a+b)(1)","((...r)=>r.length)(1,2)","(({a:{b}})=>b)({a:{b:5}})","[a=1]=[undefined],a","new (class{x=1;get y(){return this.x+1}})().y","Symbol('x').toString()","Symbol('x').description","/a/gi.flags","/a|b/.test('cab')","/^(\\d{4})-(\\d{2})$/.exec('2026-11')[2]","'aBc'.replace(/b/i,x=>x+x)","'a1b22'.match(/\\d+/g).join()","'x'.match(/y/)","'2026-11-26'.replace(/(\\d+)-(\\d+)-(\\d+)/,'$3.$2.$1')","'a.b.c'.split('.').pop()","'abc'.replace(/(?<f>a)/,'$<f>$<f>')","/\\bfoo\\b/.test('a foo b')","/(a)|(b)/.exec('b')[1]","'aaa'.lastIndexOf('a',1)","'abc'.indexOf('')","'abcabc'.replace(/a/y,'x')","(25).toString(36)","(0.000001).toString()","(1e-7).toString()","(123456789012345680000).toString()","(1234.5678).toFixed(1)","(1.005).toFixed(2)","(-1.5).toFixed(0)","(2.5).toFixed(0)","(1e21).toFixed(2)","(12345.678).toPrecision(3)","(0.00001).toPrecision(1)","(12345).toExponential(2)","0.1*3","1e16+1","9007199254740993","0.1+0.7","1.1*1.1","5e-324>0","-7%3","7%-3","-7/2|0","Math.round(-2.5)","Math.round(2.4999)","Math.round(-0.4)===0","2**-2","2**0.5>1.41","1/3*3"];

const bits = ["5", "-1", "7.9", "2**33+5", "'0x10'", "null", "NaN", "-7.5", "1e10"];
const shifts = ["&3", "|8", "^5", "<<2", ">>1", ">>>28", "<<33", ">>-1"];
const objects = [
  "{}", "{a:1}", "[]", "[5]", "[1,2]", "{valueOf(){return 3}}", "{toString(){return 'q'}}",
  "{valueOf(){return {}},toString(){return '4'}}", "{[Symbol.toPrimitive](hint){return hint}}", "{valueOf:()=>2,toString:()=>'z'}",
];
const uses = ["X+1", "X*2", "`${X}`", "X+''", "X>2", "X==3", "String(X)", "-X", "[X].join()", "({[X]:7})[X]", "X-X", "1+X"];
const bodies = [
  "let s=0;for(const [k,v] of Object.entries({a:1,b:2}))s+=k+v;return s", "const o={};o[Symbol.for('k')]=4;return o[Symbol.for('k')]",
  "const k=Symbol('d');const o={[k]:1,b:2};return Object.keys(o).join()+o[k]+k.description", "const o={*[Symbol.iterator](){yield 1;yield 2}};return [...o].join()+Math.max(...o)",
  "const o={from:1,to:3,[Symbol.iterator](){let n=this.from,t=this.to;return{next:()=>n<=t?{value:n++,done:false}:{value:undefined,done:true}}}};return [...o].join()",
  "class A{#n=1;get n(){return this.#n}set n(v){this.#n=v*2}};const a=new A();a.n=4;return a.n+Object.keys(a).length", "class A{x=1};class B extends A{y=this.x+1};const b=new B();return b.y+b.constructor.name.length+Object.keys(b).join()",
  "class A{static make(){return new this()}f(){return 5}};return A.make().f()+(A.make() instanceof A)", "class M extends Error{constructor(m){super(m);this.name='M'}};const e=new M('x');return e.name+e.message+(e instanceof Error)",
  "function F(){this.a=1}F.prototype.g=function(){return this.a+1};const f=new F();return f.g()+(f.constructor===F)+('g' in f)+f.hasOwnProperty('g')", "const p=new Proxy({},{get:(t,k)=>k.length,has:()=>true});return p.abc+('z' in p)",
  "const seen=[];const p=new Proxy([],{set(t,k,v){seen.push(k);t[k]=v;return true}});p[0]='a';p[1]='b';return seen.join()+p.length", "const p=new Proxy({a:1},{deleteProperty(t,k){delete t[k];return true}});delete p.a;return 'a' in p",
  "const f=new Proxy((a,b)=>a+b,{apply:(t,_,a)=>t(...a)*10});return f(1,2)+typeof f", "const o={a:1,get b(){return this.a+1}};return JSON.stringify({...o})+Object.values(o).join()",
  "const o=Object.defineProperty({},'x',{value:5});o.x=6;return o.x+Object.keys(o).length", "const o=Object.create({a:1});o.b=2;return o.a+o.b+Object.keys(o).join()+('a' in o)+Object.hasOwn(o,'a')",
  "const o=Object.freeze({a:1});o.a=2;o.b=3;return o.a+Object.keys(o).length", "const a=[1,2,3];delete a[1];return a.length+String(a[1])", "const o={a:1,b:2};delete o.a;return Object.keys(o).join()",
  "const {a=1,...r}={b:2,c:3};return a+Object.keys(r).join()", "const [x,,y=9,...z]=[1,2,undefined,4,5];return x+y+z.join()", "let [a,b]=[1,2];[a,b]=[b,a];return a*10+b",
  "const m=new Map([['a',1]]);m.set('b',2).delete('a');return [...m.keys()].join()+m.size+m.has('a')", "const s=new Set([1,2,2]);s.add(3).delete(1);return [...s].join()+s.size",
  "const w=new WeakMap(),k={};w.set(k,5);return w.get(k)+String(w.get({}))", "function*g(){const r=yield 1;return r}const i=g();i.next();return i.next().done", "function*g(){yield* [1,2];yield 3}return [...g()].join()",
  "let n=0;do{n++}while(n<3);for(;;){if(n++>5)break}return n", "let s='';outer:for(let i=0;i<3;i++){for(let j=0;j<3;j++){if(j===1)continue outer;if(i===2)break outer;s+=i+''+j}}return s",
  "let s='';for(const k in {b:1,a:2,1:3})s+=k;return s", "let s='';for(const k in 'ab')s+=k;return s", "let s='';for(const c of 'a\u00e9')s=c+s;return s", "switch(3){case 1:return 'a';default:return 'd';case 2:return 'b'}",
  "try{null.x}catch(e){return e instanceof TypeError}", "try{throw 5}catch(e){return e}finally{}", "const f=()=>{try{return 1}finally{return 2}};return f()", "const t=(s,...v)=>s.join('|')+v.join();return t`a${1}b${2}c`",
  "const c=f=>function g(...a){return a.length>=f.length?f(...a):(...b)=>g(...a,...b)};return c((a,b,d)=>a+b+d)(1)(2)(3)", "const memo=(f,c={})=>n=>c[n]??(c[n]=f(n));let k=0;const g=memo(n=>{k++;return n*2});g(2);return g(2)+k",
  "const d=o=>Array.isArray(o)?o.map(d):o&&typeof o==='object'?Object.fromEntries(Object.entries(o).map(([k,v])=>[k,d(v)])):o;return d({a:[1,{b:2}]}).a[1].b", "const g=(o,p)=>p.split('.').reduce((v,k)=>v?.[k],o);return g({a:{b:[5]}},'a.b.0')+String(g({},'x.y'))",
  "const h=s=>[...s].reduce((h,c)=>(h<<5)-h+c.charCodeAt(0)|0,0);return h('Sorrel')", "const n=parseInt('0a5c8f',16);return [n>>16,n>>8&255,n&255].join()", "let f=0;f|=4;f|=1;f&=~4;f^=3;return f",
  "const a=[5,1,4].toSorted();const [x]=a.toSpliced(0,1);return a.join()+x", "return Object.entries(Object.groupBy([1,2,3],n=>n%2?'odd':'even')).map(([k,v])=>k+v.length).join()", "return [...'a-b'.matchAll(/\\w/g)].length",
  "return [...'a1b2'.matchAll(/[a-z](\\d)/g)].map(m=>m[1]).join()", "const {groups:{y,m}}=/(?<y>\\d{4})-(?<m>\\d\\d)/.exec('2026-11-26');return m+y", "const o={n:0,inc(){this.n++;return this}};return o.inc().inc().n", "const o={f(){return this?.q}};const {f}=o;return String(f.call({q:3}))+f.bind({q:4})()",
  "var x=1;{let x=2;var y=x}return x+y", "let s=0;for(const x of [1,2,3].values())s+=x;return s", "return ((a,b=a+1,...r)=>a+b+r.length)(1,undefined,3,4)", "return (function(){return arguments.length+[...arguments].join()})(1,2)", "const fs=[];for(let i=0;i<3;i++)fs.push(()=>i);return fs.map(f=>f()).join()",
  "var fs=[];for(var i=0;i<3;i++)fs.push(function(){return i});return fs.map(function(f){return f()}).join()", "return typeof undeclared+typeof function(){}+typeof Symbol()+typeof 1n+typeof null", "return [1,2,3,4].every(n=>n<5)&&![1].some(n=>n>1)", "return Reflect.has({a:1},'a')+Reflect.ownKeys({a:1,b:2}).join()+Reflect.get({a:4},'a')",
  "const o={};return Reflect.set(o,'a',1)+''+o.a+Reflect.deleteProperty(o,'a')+('a' in o)", "return Object.is(NaN,NaN)+''+Object.is(0,-0)+Object.isFrozen(Object.freeze([]))", "const e=new AggregateError([new Error('a')],'m');return e.message", "const x={toJSON(){return {z:1}}};return JSON.stringify({x})",
  "return JSON.stringify([new Date(0),undefined,()=>1,NaN,'é',{u:undefined}])", "return JSON.parse('{\"a\":[1,{\"b\":null}]}',(k,v)=>v===null?0:v).a[1].b", "return structuredClone({a:[1,{b:2}]}).a[1].b", "const d=new Date(2026,0,31);d.setMonth(1);return d.getMonth()+'/'+d.getDate()", "return new Date(2026,10,26,9,5).toISOString().length+new Date(NaN).getTime()",
];

const all = [];
const asked = (of, member) => (member[0] === "[" ? `(${of})${member}` : `(${of}).${member}`);
for (const text of texts) for (const member of textMethods) all.push(asked(text, member));
for (const array of arrays) for (const member of arrayMethods) all.push(asked(array, member));
for (const number of numbers) {
  all.push(`(${number})`);
  for (const member of numberMethods) all.push(asked(number, member));
  for (const name of functions) all.push(`Math.${name}(${number})`);
}
all.push(...others);
for (const number of bits) for (const shift of shifts) all.push(`(${number})${shift}`, `~(${number})`);
for (const object of objects) for (const use of uses) all.push(use.replaceAll("X", `(${object})`));
all.push(...bodies.map((body) => `(() => { ${body} })()`));

const lines = [];
for (const expression of new Set(all)) {
  let value;
  try {
    value = (0, eval)(expression);
  } catch {
    continue;
  }
  const isPlain = value === null || ["undefined", "number", "string", "boolean"].includes(typeof value);
  const written = typeof value === "string" ? JSON.stringify(value) : Object.is(value, -0) ? "0" : String(value);
  if (isPlain && !expression.includes("\n")) lines.push(`${expression}\t${written}`);
}
writeFileSync(new URL("../crates/deft-pin-core/tests/language.txt", import.meta.url), lines.join("\n") + "\n");
console.log(`${lines.length} expressions`);
