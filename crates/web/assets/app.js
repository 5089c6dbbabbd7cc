var ec=!1,ic=!1,Hi=[],nc=-1,ra=!1,Sc=!1;function cg(i){dg(i)}function hg(){Sc=!0}function ug(){Sc=!1,$u()}function dg(i){Hi.includes(i)||(Hi.push(i),i._x_schedulerPriority!==void 0&&(ra=!0)),$u()}function Mc(i){let t=Hi.indexOf(i);t!==-1&&t>nc&&Hi.splice(t,1)}function $u(){if(!ic&&!ec){if(Sc)return;ec=!0,queueMicrotask(fg)}}function fg(){ec=!1,ic=!0;for(let i=0;i<Hi.length;i++)ra&&pg(i),Hi[i](),nc=i;Hi.length=0,nc=-1,ra=!1,ic=!1}function pg(i){let t=new Map,e=Hi.slice(i).sort((n,s)=>mg(n,s,t));for(let n=0;n<e.length;n++)Hi[i+n]=e[n];ra=!1}function mg(i,t,e){return $l(i)?$l(t)?Nu(i._x_schedulerPriority.el,e)-Nu(t._x_schedulerPriority.el,e)||i._x_schedulerPriority.order-t._x_schedulerPriority.order:-1:$l(t)?1:0}function $l(i){return i._x_schedulerPriority!==void 0}function Nu(i,t){if(t.has(i))return t.get(i);let e=0,n=i;for(;i;)e++,i._x_teleportBack?i=i._x_teleportBack:typeof ShadowRoot=="function"&&i.parentNode instanceof ShadowRoot?i=i.parentNode.host:i=i.parentElement;return t.set(n,e),e}var rs,Hn,as,Yu,gg=0,sc=!0;function _g(i){sc=!1,i(),sc=!0}function xg(i){rs=i.reactive,as=i.release,Hn=t=>i.effect(t,{scheduler:e=>{sc?cg(e):e()}}),Yu=i.raw}function Ou(i){Hn=i}function yg(i){let t=()=>{};return[(n,s)=>{let r=s?.priority==="structural"?gg++:void 0,a=Hn(n);return r!==void 0&&a!==void 0&&(a._x_schedulerPriority={el:i,order:r}),i._x_effects||(i._x_effects=new Set,i._x_runEffects=()=>{i._x_effects.forEach(o=>o())}),i._x_effects.add(a),t=()=>{a!==void 0&&(i._x_effects.delete(a),as(a))},a},()=>{t()}]}function Zu(i,t){let e=!0,n,s,r=Hn(()=>{let a=i(),o=JSON.stringify(a);if(!e&&(typeof a=="object"||a!==n)){let l=typeof n=="object"?JSON.parse(s):n;queueMicrotask(()=>{t(a,l)})}n=a,s=o,e=!1});return()=>{Mc(r),as(r)}}async function vg(i){hg();try{await i(),await Promise.resolve()}finally{ug()}}var Ku=[],Ju=[],ju=[];function Sg(i){ju.push(i)}function bc(i,t){typeof t=="function"?(i._x_cleanups||(i._x_cleanups=[]),i._x_cleanups.push(t)):(t=i,Ju.push(t))}function Qu(i){Ku.push(i)}function td(i,t,e){i._x_attributeCleanups||(i._x_attributeCleanups={}),i._x_attributeCleanups[t]||(i._x_attributeCleanups[t]=[]),i._x_attributeCleanups[t].push(e)}function ed(i,t){i._x_attributeCleanups&&Object.entries(i._x_attributeCleanups).forEach(([e,n])=>{(t===void 0||t.includes(e))&&(n.forEach(s=>s()),delete i._x_attributeCleanups[e])})}function Mg(i){for(i._x_effects?.forEach(Mc);i._x_cleanups?.length;)i._x_cleanups.pop()()}var da=new MutationObserver(fa),wc=!1;function Ec(){da.observe(document,{subtree:!0,childList:!0,attributes:!0,attributeOldValue:!0}),wc=!0}function id(){bg(),da.disconnect(),wc=!1}var Cn=[];function bg(){let i=da.takeRecords();Cn.push(()=>i.length>0&&fa(i));let t=Cn.length;queueMicrotask(()=>{if(Cn.length===t)for(;Cn.length>0;)Cn.shift()()})}function wg(){for(;Cn.length>0;)Cn.shift()();let i=da.takeRecords();i.length>0&&fa(i)}function fe(i){if(!wc)return i();id();try{return i()}finally{Ec()}}var Tc=!1,aa=[];function Eg(){Tc=!0}function Tg(){Tc=!1,fa(aa),aa=[]}function fa(i){if(Tc){aa=aa.concat(i);return}let t=[],e=new Set,n=new Map,s=new Map;for(let r=0;r<i.length;r++)if(!i[r].target._x_ignoreMutationObserver&&(i[r].type==="childList"&&(i[r].removedNodes.forEach(a=>{a.nodeType===1&&a._x_marker&&e.add(a)}),i[r].addedNodes.forEach(a=>{if(a.nodeType===1){if(e.has(a)){e.delete(a);return}a._x_marker||t.push(a)}})),i[r].type==="attributes")){let a=i[r].target,o=i[r].attributeName,l=i[r].oldValue,c=()=>{n.has(a)||n.set(a,[]),n.get(a).push({name:o,value:a.getAttribute(o)})},h=()=>{s.has(a)||s.set(a,[]),s.get(a).push(o)};a.hasAttribute(o)&&l===null?c():a.hasAttribute(o)?(h(),c()):h()}s.forEach((r,a)=>{ed(a,r)}),n.forEach((r,a)=>{Ku.forEach(o=>o(a,r))});for(let r of e)t.some(a=>a.contains(r))||Ju.forEach(a=>a(r));for(let r of t)r.isConnected&&ju.forEach(a=>a(r));t=null,e=null,n=null,s=null}function nd(i){return On(ss(i))}function ar(i,t,e){return i._x_dataStack=[t,...ss(e||i)],()=>{i._x_dataStack=i._x_dataStack.filter(n=>n!==t)}}function ss(i){return i._x_dataStack?i._x_dataStack:typeof ShadowRoot=="function"&&i instanceof ShadowRoot?ss(i.host):i.parentNode?ss(i.parentNode):[]}function On(i){return new Proxy({objects:i},Ag)}function sd(i,t){return i===null||i===Object.prototype?null:Object.prototype.hasOwnProperty.call(i,t)?i:sd(Object.getPrototypeOf(i),t)}var Ag={ownKeys({objects:i}){return Array.from(new Set(i.flatMap(t=>Object.keys(t))))},has({objects:i},t){return t==Symbol.unscopables?!1:i.some(e=>Object.prototype.hasOwnProperty.call(e,t)||Reflect.has(e,t))},get({objects:i},t,e){return t=="toJSON"?Rg:Reflect.get(i.find(n=>Reflect.has(n,t))||{},t,e)},set({objects:i},t,e,n){let s;for(let a of i)if(s=sd(a,t),s)break;s||(s=i[i.length-1]);let r=Object.getOwnPropertyDescriptor(s,t);return r?.set&&r?.get?r.set.call(n,e)||!0:Reflect.set(s,t,e)}};function Rg(){return Reflect.ownKeys(this).reduce((t,e)=>(t[e]=Reflect.get(this,e),t),{})}function Ac(i,t=()=>{}){let e=s=>typeof s=="object"&&!Array.isArray(s)&&s!==null,n=(s,r="")=>{Object.entries(Object.getOwnPropertyDescriptors(s)).forEach(([a,{value:o,enumerable:l}])=>{if(l===!1||o===void 0||typeof o=="object"&&o!==null&&o.__v_skip)return;let c=r===""?a:`${r}.${a}`;typeof o=="object"&&o!==null&&o._x_interceptor?s[a]=o.initialize(i,c,a,t):e(o)&&o!==s&&!(o instanceof Element)&&n(o,c)})};return n(i)}function rd(i,t=()=>{}){let e={initialValue:void 0,_x_interceptor:!0,initialize(n,s,r,a){return i(this.initialValue,()=>Cg(n,s),o=>rc(n,s,o),s,r,a)}};return t(e),n=>{if(typeof n=="object"&&n!==null&&n._x_interceptor){let s=e.initialize.bind(e);e.initialize=(r,a,o,l)=>{let c=n.initialize(r,a,o,l);return e.initialValue=c,s(r,a,o,l)}}else e.initialValue=n;return e}}function Cg(i,t){return t.split(".").reduce((e,n)=>e[n],i)}function rc(i,t,e){if(typeof t=="string"&&(t=t.split(".")),t.length===1)i[t[0]]=e;else{if(t.length===0)throw error;return i[t[0]]||(i[t[0]]={}),rc(i[t[0]],t.slice(1),e)}}var ad={};function di(i,t){ad[i]=t}function oa(i,t){let e=Pg(t);return Object.entries(ad).forEach(([n,s])=>{Object.defineProperty(i,`$${n}`,{get(){return s(t,e)},enumerable:!1})}),i}function Pg(i){let[t,e]=fd(i),n={interceptor:rd,...t};return bc(i,e),n}function Ig(i,t,e,...n){try{return e(...n)}catch(s){pa(s,i,t)}}function pa(...i){return od(...i)}var od=Dg;function Lg(i){od=i}function Dg(i,t,e=void 0){i=Object.assign(i??{message:"No error message given."},{el:t,expression:e}),console.warn(`Alpine Expression Error: ${i.message}

${e?'Expression: "'+e+`"

`:""}`,t),setTimeout(()=>{throw i},0)}var Ln=!0;function ld(i){let t=Ln;Ln=!1;let e=i();return Ln=t,e}function Dn(i,t,e={}){let n;return ze(i,t)(s=>n=s,e),n}function ze(...i){return cd(...i)}var cd=()=>{};function Ng(i){cd=i}var hd;function Og(i){hd=i}function Ug(i,t){return(e=()=>{},{scope:n={},params:s=[],context:r}={})=>{if(!Ln){ac(e,t,On([n,...i]),s);return}let a=t.apply(On([n,...i]),s);ac(e,a)}}function ac(i,t,e,n,s){if(Ln&&typeof t=="function"){let r=t.apply(e,n);r instanceof Promise?r.then(a=>ac(i,a,e,n)).catch(a=>pa(a,s,t)):i(r)}else typeof t=="object"&&t instanceof Promise?t.then(r=>i(r)):i(t)}function Fg(...i){return hd(...i)}var Rc="x-";function os(i=""){return Rc+i}function kg(i){Rc=i}var la={};function pe(i,t){return la[i]=t,{before(e){if(!la[e]){console.warn(String.raw`Cannot find directive \`${e}\`. \`${i}\` will use the default order of execution`);return}let n=In.indexOf(e);In.splice(n>=0?n:In.indexOf("DEFAULT"),0,i)}}}function Bg(i){return Object.keys(la).includes(i)}function ma(i,t,e){if(t=Array.from(t),i._x_virtualDirectives){let r=Object.entries(i._x_virtualDirectives).map(([o,l])=>({name:o,value:l})),a=ud(r);r=r.map(o=>a.find(l=>l.name===o.name)?{name:`x-bind:${o.name}`,value:`"${o.value}"`}:o),t=t.concat(r)}let n={};return t.map(gd((r,a)=>n[r]=a)).filter(xd).map(Vg(n,e)).sort(Gg).map(r=>Hg(i,r))}function ud(i){return Array.from(i).map(gd()).filter(t=>!xd(t))}var oc=!1,Zs=new Map,dd=Symbol();function zg(i){oc=!0;let t=Symbol();dd=t,Zs.set(t,[]);let e=()=>{for(;Zs.get(t).length;)Zs.get(t).shift()();Zs.delete(t)},n=()=>{oc=!1,e()};i(e),n()}function fd(i){let t=[],e=o=>t.push(o),[n,s]=yg(i);return t.push(s),[{Alpine:ls,effect:n,cleanup:e,evaluateLater:ze.bind(ze,i),evaluate:Dn.bind(Dn,i)},()=>t.forEach(o=>o())]}function Hg(i,t){let e=()=>{},n=la[t.type]||e,[s,r]=fd(i);td(i,t.original,r);let a=()=>{i._x_ignore||i._x_ignoreSelf||(n.inline&&n.inline(i,t,s),n=n.bind(n,i,t,s),oc?Zs.get(dd).push(n):n())};return a.runCleanups=r,a}var pd=(i,t)=>({name:e,value:n})=>(e.startsWith(i)&&(e=e.replace(i,t)),{name:e,value:n}),md=i=>i;function gd(i=()=>{}){return({name:t,value:e})=>{let{name:n,value:s}=_d.reduce((r,a)=>a(r),{name:t,value:e});return n!==t&&i(n,t),{name:n,value:s}}}var _d=[];function Cc(i){_d.push(i)}function xd({name:i}){return yd().test(i)}var yd=()=>new RegExp(`^${Rc}([^:^.]+)\\b`);function Vg(i,t){return({name:e,value:n})=>{e===n&&(n="");let s=e.match(yd()),r=e.match(/:([a-zA-Z0-9\-_:]+)/),a=e.match(/\.[^.\]]+(?=[^\]]*$)/g)||[],o=t||i[e]||e;return{type:s?s[1]:null,value:r?r[1]:null,modifiers:a.map(l=>l.replace(".","")),expression:n,original:o}}}var lc="DEFAULT",In=["ignore","ref","id","data","anchor","bind","init","for","model","modelable","transition","show","if",lc,"teleport"];function Gg(i,t){let e=In.indexOf(i.type)===-1?lc:i.type,n=In.indexOf(t.type)===-1?lc:t.type;return In.indexOf(e)-In.indexOf(n)}function Un(i,t){if(typeof ShadowRoot=="function"&&i instanceof ShadowRoot){Array.from(i.children).forEach(s=>Un(s,t));return}let e=!1;if(t(i,()=>e=!0),e)return;let n=i.firstElementChild;for(;n;)Un(n,t,!1),n=n.nextElementSibling}var rn=!1;function Vi(i,t=()=>{}){return(...e)=>rn?t(...e):i(...e)}function Wg(i){return(...t)=>rn&&i(...t)}var vd=[];function or(i){vd.push(i)}function Xg(i,t){vd.forEach(e=>e(i,t)),rn=!0,Sd(()=>{wi(t,(e,n)=>{n(e,()=>{})})}),rn=!1}var cc=!1;function qg(i,t){t._x_dataStack||(t._x_dataStack=i._x_dataStack),rn=!0,cc=!0,Sd(()=>{$g(t)}),rn=!1,cc=!1}function $g(i){let t=!1;wi(i,(n,s)=>{Un(n,(r,a)=>{if(t&&Qg(r))return a();t=!0,s(r,a)})})}function Sd(i){let t=Hn;Ou((e,n)=>{let s=t(e);return as(s),()=>{}}),i(),Ou(t)}var ga=0;function Yg(i,t){let e=i._x_deferInit;e||(e=i._x_deferInit={pending:0,ownsIgnore:!i._x_ignore,queuedAttributes:new Map},e.ownsIgnore&&(i._x_ignore=!0),ga++),e.pending++,Promise.resolve(t).catch(n=>{try{pa(n,i)}catch(s){setTimeout(()=>{throw s},0)}}).then(()=>Zg(i,e))}function Zg(i,t){t.pending--,!(t.pending>0)&&(wg(),!(t.pending>0)&&i._x_deferInit===t&&(delete i._x_deferInit,t.ownsIgnore&&delete i._x_ignore,ga--,i.isConnected&&(Jg(t),wi(i))))}function Kg(i,t){if(ga===0)return!1;let e=oi(i,n=>n._x_deferInit);return e?(Md(e._x_deferInit,i,t.map(({name:n})=>n)),!0):!1}function Md(i,t,e){let n=i.queuedAttributes.get(t);(!n||n.marker!==t._x_marker)&&(n={marker:t._x_marker,names:new Set},i.queuedAttributes.set(t,n)),e.forEach(s=>n.names.add(s))}function Jg(i){i.queuedAttributes.forEach((t,e)=>{if(!e.isConnected||!e._x_marker||e._x_marker!==t.marker)return;let n=oi(e,r=>r._x_deferInit);if(n){Md(n._x_deferInit,e,Array.from(t.names));return}let s=Array.from(t.names).filter(r=>e.hasAttribute(r)).map(r=>({name:r,value:e.getAttribute(r)}));s.length!==0&&ma(e,s).forEach(r=>r())})}or((i,t)=>{ga!==0&&(!i||i.nodeType!==1||!t||t.nodeType!==1||oi(i,e=>e._x_deferInit)&&(t._x_ignore=!0))});function Ks(i,t,e={},n={}){return i.dispatchEvent(new CustomEvent(t,{detail:e,bubbles:!0,composed:!0,cancelable:!0,...n}))}function bi(i,...t){console.warn(`Alpine Warning: ${i}`,...t)}var Uu=!1;function jg(){Uu&&bi("Alpine has already been initialized on this page. Calling Alpine.start() more than once can cause problems."),Uu=!0,document.body||bi("Unable to initialize. Trying to load Alpine before `<body>` is available. Did you forget to add `defer` in Alpine's `<script>` tag?"),Ks(document,"alpine:init"),Ks(document,"alpine:initializing"),Ec(),Sg(t=>wi(t,Un)),bc(t=>Vn(t)),Qu((t,e)=>{Kg(t,e)||ma(t,e).forEach(n=>n())});let i=t=>!_a(t.parentElement,!0);Array.from(document.querySelectorAll(Ed().join(","))).filter(i).forEach(t=>{wi(t)}),Ks(document,"alpine:initialized"),setTimeout(()=>{i_()})}var Pc=[],bd=[];function wd(){return Pc.map(i=>i())}function Ed(){return Pc.concat(bd).map(i=>i())}function Td(i){Pc.push(i)}function Ad(i){bd.push(i)}function _a(i,t=!1){return oi(i,e=>{if((t?Ed():wd()).some(s=>e.matches(s)))return!0})}function oi(i,t){if(i){if(t(i))return i;if(i._x_teleportBack)return oi(i._x_teleportBack,t);if(i.parentNode instanceof ShadowRoot)return oi(i.parentNode.host,t);if(i.parentElement)return oi(i.parentElement,t)}}function Qg(i){return wd().some(t=>i.matches(t))}var Rd=[];function t_(i){Rd.push(i)}var e_=1;function wi(i,t=Un,e=()=>{}){oi(i,n=>n._x_ignore)||zg(()=>{t(i,(n,s)=>{n._x_marker||(e(n,s),Rd.forEach(r=>r(n,s)),ma(n,n.attributes).forEach(r=>r()),n._x_ignore||(n._x_marker=e_++),n._x_ignore&&s())})})}function Vn(i,t=Un){t(i,e=>{Mg(e),ed(e),delete e._x_marker})}function i_(){[["ui","dialog",["[x-dialog], [x-popover]"]],["anchor","anchor",["[x-anchor]"]],["sort","sort",["[x-sort]"]]].forEach(([t,e,n])=>{Bg(e)||n.some(s=>{if(document.querySelector(s))return bi(`found "${s}", but missing ${t} plugin`),!0})})}var hc=[],Ic=!1;function Lc(i=()=>{}){return queueMicrotask(()=>{Ic||setTimeout(()=>{uc()})}),new Promise(t=>{hc.push(()=>{i(),t()})})}function uc(){for(Ic=!1;hc.length;)hc.shift()()}function n_(){Ic=!0}function Dc(i,t){return Array.isArray(t)?Fu(i,t.join(" ")):typeof t=="object"&&t!==null?s_(i,t):typeof t=="function"?Dc(i,t()):Fu(i,t)}function dc(i){return i.split(/\s/).filter(Boolean)}function Fu(i,t){let e=s=>dc(s).filter(r=>!i.classList.contains(r)).filter(Boolean),n=s=>(i.classList.add(...s),()=>{i.classList.remove(...s)});return t=t===!0?t="":t||"",n(e(t))}function s_(i,t){let e=Object.entries(t).flatMap(([a,o])=>o?dc(a):!1).filter(Boolean),n=Object.entries(t).flatMap(([a,o])=>o?!1:dc(a)).filter(Boolean),s=[],r=[];return n.forEach(a=>{i.classList.contains(a)&&(i.classList.remove(a),r.push(a))}),e.forEach(a=>{i.classList.contains(a)||(i.classList.add(a),s.push(a))}),()=>{r.forEach(a=>i.classList.add(a)),s.forEach(a=>i.classList.remove(a))}}function xa(i,t){return typeof t=="object"&&t!==null?r_(i,t):a_(i,t)}function r_(i,t){let e={};return Object.entries(t).forEach(([n,s])=>{e[n]=i.style[n],n.startsWith("--")||(n=o_(n)),i.style.setProperty(n,s)}),setTimeout(()=>{i.style.length===0&&i.removeAttribute("style")}),()=>{xa(i,e)}}function a_(i,t){let e=i.getAttribute("style",t);return i.setAttribute("style",t),()=>{i.setAttribute("style",e||"")}}function o_(i){return i.replace(/([a-z])([A-Z])/g,"$1-$2").toLowerCase()}function fc(i,t=()=>{}){let e=!1;return function(){e?t.apply(this,arguments):(e=!0,i.apply(this,arguments))}}pe("transition",(i,{value:t,modifiers:e,expression:n},{evaluate:s})=>{typeof n=="function"&&(n=s(n)),n!==!1&&(!n||typeof n=="boolean"?c_(i,e,t):l_(i,n,t))});function l_(i,t,e){Cd(i,Dc,""),{enter:s=>{i._x_transition.enter.during=s},"enter-start":s=>{i._x_transition.enter.start=s},"enter-end":s=>{i._x_transition.enter.end=s},leave:s=>{i._x_transition.leave.during=s},"leave-start":s=>{i._x_transition.leave.start=s},"leave-end":s=>{i._x_transition.leave.end=s}}[e](t)}function c_(i,t,e){Cd(i,xa);let n=!t.includes("in")&&!t.includes("out")&&!e,s=n||t.includes("in")||["enter"].includes(e),r=n||t.includes("out")||["leave"].includes(e);t.includes("in")&&!n&&(t=t.filter((p,S)=>S<t.indexOf("out"))),t.includes("out")&&!n&&(t=t.filter((p,S)=>S>t.indexOf("out")));let a=!t.includes("opacity")&&!t.includes("scale"),o=a||t.includes("opacity"),l=a||t.includes("scale"),c=o?0:1,h=l?$s(t,"scale",95)/100:1,d=$s(t,"delay",0)/1e3,u=$s(t,"origin","center"),m="opacity, transform",g=$s(t,"duration",150)/1e3,_=$s(t,"duration",75)/1e3,f="cubic-bezier(0.4, 0.0, 0.2, 1)";s&&(i._x_transition.enter.during={transformOrigin:u,transitionDelay:`${d}s`,transitionProperty:m,transitionDuration:`${g}s`,transitionTimingFunction:f},i._x_transition.enter.start={opacity:c,transform:`scale(${h})`},i._x_transition.enter.end={opacity:1,transform:"scale(1)"}),r&&(i._x_transition.leave.during={transformOrigin:u,transitionDelay:`${d}s`,transitionProperty:m,transitionDuration:`${_}s`,transitionTimingFunction:f},i._x_transition.leave.start={opacity:1,transform:"scale(1)"},i._x_transition.leave.end={opacity:c,transform:`scale(${h})`})}function Cd(i,t,e={}){i._x_transition||(i._x_transition={enter:{during:e,start:e,end:e},leave:{during:e,start:e,end:e},in(n=()=>{},s=()=>{}){pc(i,t,{during:this.enter.during,start:this.enter.start,end:this.enter.end},n,s)},out(n=()=>{},s=()=>{}){pc(i,t,{during:this.leave.during,start:this.leave.start,end:this.leave.end},n,s)}})}window.Element.prototype._x_toggleAndCascadeWithTransitions=function(i,t,e,n){let s=document.visibilityState==="visible"?requestAnimationFrame:setTimeout,r=()=>s(e);if(t){i._x_transition&&(i._x_transition.enter||i._x_transition.leave)?i._x_transition.enter&&(Object.entries(i._x_transition.enter.during).length||Object.entries(i._x_transition.enter.start).length||Object.entries(i._x_transition.enter.end).length)?i._x_transition.in(e):r():i._x_transition?i._x_transition.in(e):r();return}i._x_hidePromise=i._x_transition?new Promise((a,o)=>{i._x_transition.out(()=>{},()=>a(n)),i._x_transitioning&&i._x_transitioning.beforeCancel(()=>o({isFromCancelledTransition:!0}))}):Promise.resolve(n),queueMicrotask(()=>{let a=Pd(i);a?(a._x_hideChildren||(a._x_hideChildren=[]),a._x_hideChildren.push(i)):s(()=>{let o=l=>{let c=Promise.all([l._x_hidePromise,...(l._x_hideChildren||[]).map(o)]).then(([h])=>h?.());return delete l._x_hidePromise,delete l._x_hideChildren,c};o(i).catch(l=>{if(!l.isFromCancelledTransition)throw l})})})};function Pd(i){let t=i.parentNode;if(t)return t._x_hidePromise?t:Pd(t)}function pc(i,t,{during:e,start:n,end:s}={},r=()=>{},a=()=>{}){if(i._x_transitioning&&i._x_transitioning.cancel(),Object.keys(e).length===0&&Object.keys(n).length===0&&Object.keys(s).length===0){r(),a();return}let o,l,c;h_(i,{start(){o=t(i,n)},during(){l=t(i,e)},before:r,end(){o(),c=t(i,s)},after:a,cleanup(){l(),c()}})}function h_(i,t){let e,n,s,r=fc(()=>{fe(()=>{e=!0,n||t.before(),s||(t.end(),uc()),t.after(),i.isConnected&&t.cleanup(),delete i._x_transitioning})});i._x_transitioning={beforeCancels:[],beforeCancel(a){this.beforeCancels.push(a)},cancel:fc(function(){for(;this.beforeCancels.length;)this.beforeCancels.shift()();r()}),finish:r},fe(()=>{t.start(),t.during()}),n_(),requestAnimationFrame(()=>{if(e)return;let a=Number(getComputedStyle(i).transitionDuration.replace(/,.*/,"").replace("s",""))*1e3,o=Number(getComputedStyle(i).transitionDelay.replace(/,.*/,"").replace("s",""))*1e3;a===0&&(a=Number(getComputedStyle(i).animationDuration.replace("s",""))*1e3),fe(()=>{t.before()}),n=!0,requestAnimationFrame(()=>{e||(fe(()=>{t.end()}),uc(),setTimeout(i._x_transitioning.finish,a+o),s=!0)})})}function $s(i,t,e){if(i.indexOf(t)===-1)return e;let n=i[i.indexOf(t)+1];if(!n||t==="scale"&&isNaN(n))return e;if(t==="duration"||t==="delay"){let s=n.match(/([0-9]+)ms/);if(s)return s[1]}return t==="origin"&&["top","right","left","center","bottom"].includes(i[i.indexOf(t)+2])?[n,i[i.indexOf(t)+2]].join(" "):n}function Id(i,t,e,n=[]){switch(i._x_bindings||(i._x_bindings=rs({})),i._x_bindings[t]=e,t=n.includes("camel")?x_(t):t,t){case"value":u_(i,e);break;case"style":f_(i,e);break;case"class":d_(i,e);break;case"selected":case"checked":p_(i,t,e);break;default:Nc(i,t,e);break}}function u_(i,t){if(Oc(i))i.attributes.value===void 0&&(i.value=t);else if(ca(i))Number.isInteger(t)?i.value=t:!Array.isArray(t)&&typeof t!="boolean"&&![null,void 0].includes(t)?i.value=String(t):Array.isArray(t)?i.checked=t.some(e=>y_(e,i.value)):i.checked=!!t;else if(i.tagName==="SELECT")__(i,t);else if(i.tagName==="OPTION")Nc(i,"value",t);else{if(i.value===t&&(typeof t!="object"||t===null))return;i.value=t===void 0?"":t}}function d_(i,t){i._x_undoAddedClasses&&i._x_undoAddedClasses(),i._x_undoAddedClasses=Dc(i,t)}function f_(i,t){i._x_undoAddedStyles&&i._x_undoAddedStyles(),i._x_undoAddedStyles=xa(i,t)}function p_(i,t,e){Nc(i,t,e),g_(i,t,e)}function Nc(i,t,e){[null,void 0,!1].includes(e)&&S_(t)?i.removeAttribute(t):(Ld(t)&&(e=t),M_(e)&&(e=JSON.stringify(e)),m_(i,t,e))}function m_(i,t,e){i.getAttribute(t)!=e&&i.setAttribute(t,e)}function g_(i,t,e){i[t]!==e&&(i[t]=e)}function __(i,t){let e=[].concat(t).map(n=>n+"");Array.from(i.options).forEach(n=>{n.selected=e.includes(n.value)})}function x_(i){return i.toLowerCase().replace(/-(\w)/g,(t,e)=>e.toUpperCase())}function y_(i,t){return i==t}function sa(i){return[1,"1","true","on","yes",!0].includes(i)?!0:[0,"0","false","off","no",!1].includes(i)?!1:i?!!i:null}var v_=new Set(["allowfullscreen","async","autofocus","autoplay","checked","controls","default","defer","disabled","formnovalidate","inert","ismap","itemscope","loop","multiple","muted","nomodule","novalidate","open","playsinline","readonly","required","reversed","selected","shadowrootclonable","shadowrootdelegatesfocus","shadowrootserializable"]);function Ld(i){return v_.has(i)}function S_(i){return!["aria-pressed","aria-checked","aria-expanded","aria-selected"].includes(i)}function M_(i){return typeof i=="object"&&i!==null}function b_(i,t,e){return i._x_bindings&&i._x_bindings[t]!==void 0?i._x_bindings[t]:Dd(i,t,e)}function w_(i,t,e,n=!0){if(i._x_bindings&&i._x_bindings[t]!==void 0)return i._x_bindings[t];if(i._x_inlineBindings&&i._x_inlineBindings[t]!==void 0){let s=i._x_inlineBindings[t];return s.extract=n,ld(()=>Dn(i,s.expression))}return Dd(i,t,e)}function Dd(i,t,e){let n=i.getAttribute(t);return n===null?typeof e=="function"?e():e:n===""?!0:Ld(t)?!![t,"true"].includes(n):n}function ca(i){return i.type==="checkbox"||i.localName==="ui-checkbox"||i.localName==="ui-switch"}function Oc(i){return i.type==="radio"||i.localName==="ui-radio"}function Nd(i,t){let e;return function(){let n=this,s=arguments,r=function(){e=null,i.apply(n,s)};clearTimeout(e),e=setTimeout(r,t)}}function Od(i,t){let e;return function(){let n=this,s=arguments;e||(i.apply(n,s),e=!0,setTimeout(()=>e=!1,t))}}function Ud({get:i,set:t},{get:e,set:n}){let s=!0,r,a,o=Hn(()=>{let l=i(),c=e();if(s)n(Yl(l)),s=!1;else{let h=JSON.stringify(l),d=JSON.stringify(c);h!==r?n(Yl(l)):h!==d&&t(Yl(c))}r=JSON.stringify(i()),a=JSON.stringify(e())});return()=>{Mc(o),as(o)}}function Yl(i){return typeof i=="object"?JSON.parse(JSON.stringify(i)):i}function E_(i){(Array.isArray(i)?i:[i]).forEach(e=>e(ls))}var zi={},ku=!1;function T_(i,t){if(ku||(zi=rs(zi),ku=!0),t===void 0)return zi[i];zi[i]=t,typeof t=="object"&&t!==null&&t._x_interceptor?zi[i]=t.initialize(zi,i,i,()=>{}):Ac(zi[i]),typeof t=="object"&&t!==null&&t.hasOwnProperty("init")&&typeof t.init=="function"&&zi[i].init()}function A_(){return zi}var Fd={};function R_(i,t){let e=typeof t!="function"?()=>t:t;return i instanceof Element?kd(i,e()):(Fd[i]=e,()=>{})}function C_(i){return Object.entries(Fd).forEach(([t,e])=>{Object.defineProperty(i,t,{get(){return(...n)=>e(...n)}})}),i}function kd(i,t,e){let n=[];for(;n.length;)n.pop()();let s=Object.entries(t).map(([a,o])=>({name:a,value:o})),r=ud(s);return s=s.map(a=>r.find(o=>o.name===a.name)?{name:`x-bind:${a.name}`,value:`"${a.value}"`}:a),ma(i,s,e).map(a=>{n.push(a.runCleanups),a()}),()=>{for(;n.length;)n.pop()()}}var Bd={};function P_(i,t){Bd[i]=t}function I_(i,t){return Object.entries(Bd).forEach(([e,n])=>{Object.defineProperty(i,e,{get(){return(...s)=>n.bind(t)(...s)},enumerable:!1})}),i}var L_={get reactive(){return rs},get release(){return as},get effect(){return Hn},get raw(){return Yu},get transaction(){return vg},version:"3.17.4",flushAndStopDeferringMutations:Tg,dontAutoEvaluateFunctions:ld,disableEffectScheduling:_g,startObservingMutations:Ec,stopObservingMutations:id,setReactivityEngine:xg,onAttributeRemoved:td,onAttributesAdded:Qu,closestDataStack:ss,skipDuringClone:Vi,onlyDuringClone:Wg,addRootSelector:Td,addInitSelector:Ad,setErrorHandler:Lg,interceptClone:or,addScopeToNode:ar,deferMutations:Eg,mapAttributes:Cc,evaluateLater:ze,interceptInit:t_,initInterceptors:Ac,injectMagics:oa,setEvaluator:Ng,setRawEvaluator:Og,mergeProxies:On,extractProp:w_,findClosest:oi,onElRemoved:bc,closestRoot:_a,destroyTree:Vn,interceptor:rd,transition:pc,setStyles:xa,mutateDom:fe,deferInit:Yg,directive:pe,entangle:Ud,throttle:Od,debounce:Nd,evaluate:Dn,evaluateRaw:Fg,initTree:wi,nextTick:Lc,prefixed:os,prefix:kg,plugin:E_,magic:di,store:T_,start:jg,clone:qg,cloneNode:Xg,bound:b_,$data:nd,watch:Zu,walk:Un,data:P_,bind:R_},ls=L_,Bu=new WeakMap,zd=new Set;Object.getOwnPropertyNames(globalThis).forEach(i=>{if(i==="styleMedia"||i==="sharedStorage")return;let t;try{t=globalThis[i]}catch{return}zd.add(t)});var Se=class{constructor(i,t,e,n){this.type=i,this.value=t,this.start=e,this.end=n}},D_=["IDENTIFIER","KEYWORD","BOOLEAN","NULL","UNDEFINED"],N_=class{constructor(i){this.input=i,this.position=0,this.tokens=[]}tokenize(){for(;this.position<this.input.length&&(this.skipWhitespace(),!(this.position>=this.input.length));){let i=this.input[this.position];this.isDigit(i)?this.readNumber():this.isAlpha(i)||i==="_"||i==="$"?this.readIdentifierOrKeyword():i==='"'||i==="'"?this.readString():i==="/"&&this.peek()==="/"?this.skipLineComment():this.readOperatorOrPunctuation()}return this.tokens.push(new Se("EOF",null,this.position,this.position)),this.tokens}skipWhitespace(){for(;this.position<this.input.length&&/\s/.test(this.input[this.position]);)this.position++}skipLineComment(){for(;this.position<this.input.length&&this.input[this.position]!==`
`;)this.position++}isDigit(i){return/[0-9]/.test(i)}isAlpha(i){return/[a-zA-Z]/.test(i)}isAlphaNumeric(i){return/[a-zA-Z0-9_$]/.test(i)}peek(i=1){return this.input[this.position+i]||""}readNumber(){let i=this.position,t=!1;for(;this.position<this.input.length;){let n=this.input[this.position];if(this.isDigit(n))this.position++;else if(n==="."&&!t)t=!0,this.position++;else break}let e=this.input.slice(i,this.position);this.tokens.push(new Se("NUMBER",parseFloat(e),i,this.position))}readIdentifierOrKeyword(){let i=this.position;for(;this.position<this.input.length&&this.isAlphaNumeric(this.input[this.position]);)this.position++;let t=this.input.slice(i,this.position);["true","false","null","undefined","new","typeof","void","delete","in","instanceof"].includes(t)?t==="true"||t==="false"?this.tokens.push(new Se("BOOLEAN",t==="true",i,this.position)):t==="null"?this.tokens.push(new Se("NULL",null,i,this.position)):t==="undefined"?this.tokens.push(new Se("UNDEFINED",void 0,i,this.position)):this.tokens.push(new Se("KEYWORD",t,i,this.position)):this.tokens.push(new Se("IDENTIFIER",t,i,this.position))}readString(){let i=this.position,t=this.input[this.position];this.position++;let e="",n=!1;for(;this.position<this.input.length;){let s=this.input[this.position];if(n){switch(s){case"n":e+=`
`;break;case"t":e+="	";break;case"r":e+="\r";break;case"\\":e+="\\";break;case t:e+=t;break;case"u":{let r=this.input.slice(this.position+1,this.position+5);/^[0-9a-fA-F]{4}$/.test(r)?(e+=String.fromCharCode(parseInt(r,16)),this.position+=4):e+=s;break}default:e+=s}n=!1}else if(s==="\\")n=!0;else if(s===t){this.position++,this.tokens.push(new Se("STRING",e,i,this.position));return}else e+=s;this.position++}throw new Error(`Unterminated string starting at position ${i}`)}readOperatorOrPunctuation(){let i=this.position,t=this.input[this.position],e=this.peek(),n=this.peek(2);if(t==="="&&e==="="&&n==="=")this.position+=3,this.tokens.push(new Se("OPERATOR","===",i,this.position));else if(t==="!"&&e==="="&&n==="=")this.position+=3,this.tokens.push(new Se("OPERATOR","!==",i,this.position));else if(t==="="&&e==="=")this.position+=2,this.tokens.push(new Se("OPERATOR","==",i,this.position));else if(t==="!"&&e==="=")this.position+=2,this.tokens.push(new Se("OPERATOR","!=",i,this.position));else if(t==="<"&&e==="=")this.position+=2,this.tokens.push(new Se("OPERATOR","<=",i,this.position));else if(t===">"&&e==="=")this.position+=2,this.tokens.push(new Se("OPERATOR",">=",i,this.position));else if(t==="&"&&e==="&")this.position+=2,this.tokens.push(new Se("OPERATOR","&&",i,this.position));else if(t==="|"&&e==="|")this.position+=2,this.tokens.push(new Se("OPERATOR","||",i,this.position));else if(t==="+"&&e==="+")this.position+=2,this.tokens.push(new Se("OPERATOR","++",i,this.position));else if(t==="-"&&e==="-")this.position+=2,this.tokens.push(new Se("OPERATOR","--",i,this.position));else{this.position++;let s="()[]{},.;:?".includes(t)?"PUNCTUATION":"OPERATOR";this.tokens.push(new Se(s,t,i,this.position))}}},O_=class{constructor(i){this.tokens=i,this.position=0}parse(){if(this.isAtEnd())throw new Error("Empty expression");let i=this.parseExpression();if(this.match("PUNCTUATION",";"),!this.isAtEnd())throw new Error(`Unexpected token: ${this.current().value}`);return i}parseExpression(){return this.parseAssignment()}parseAssignment(){let i=this.parseTernary();if(this.match("OPERATOR","=")){let t=this.parseAssignment();if(i.type==="Identifier"||i.type==="MemberExpression")return{type:"AssignmentExpression",left:i,operator:"=",right:t};throw new Error("Invalid assignment target")}return i}parseTernary(){let i=this.parseLogicalOr();if(this.match("PUNCTUATION","?")){let t=this.parseExpression();this.consume("PUNCTUATION",":");let e=this.parseExpression();return{type:"ConditionalExpression",test:i,consequent:t,alternate:e}}return i}parseLogicalOr(){let i=this.parseLogicalAnd();for(;this.match("OPERATOR","||");){let t=this.previous().value,e=this.parseLogicalAnd();i={type:"BinaryExpression",operator:t,left:i,right:e}}return i}parseLogicalAnd(){let i=this.parseEquality();for(;this.match("OPERATOR","&&");){let t=this.previous().value,e=this.parseEquality();i={type:"BinaryExpression",operator:t,left:i,right:e}}return i}parseEquality(){let i=this.parseRelational();for(;this.match("OPERATOR","==","!=","===","!==");){let t=this.previous().value,e=this.parseRelational();i={type:"BinaryExpression",operator:t,left:i,right:e}}return i}parseRelational(){let i=this.parseAdditive();for(;this.match("OPERATOR","<",">","<=",">=");){let t=this.previous().value,e=this.parseAdditive();i={type:"BinaryExpression",operator:t,left:i,right:e}}return i}parseAdditive(){let i=this.parseMultiplicative();for(;this.match("OPERATOR","+","-");){let t=this.previous().value,e=this.parseMultiplicative();i={type:"BinaryExpression",operator:t,left:i,right:e}}return i}parseMultiplicative(){let i=this.parseUnary();for(;this.match("OPERATOR","*","/","%");){let t=this.previous().value,e=this.parseUnary();i={type:"BinaryExpression",operator:t,left:i,right:e}}return i}parseUnary(){if(this.match("OPERATOR","++","--")){let i=this.previous().value,t=this.parseUnary();return{type:"UpdateExpression",operator:i,argument:t,prefix:!0}}if(this.match("OPERATOR","!","-","+")){let i=this.previous().value,t=this.parseUnary();return{type:"UnaryExpression",operator:i,argument:t,prefix:!0}}return this.parsePostfix()}parsePostfix(){let i=this.parseMember();return this.match("OPERATOR","++","--")?{type:"UpdateExpression",operator:this.previous().value,argument:i,prefix:!1}:i}parseMember(){let i=this.parsePrimary();for(;;)if(this.match("PUNCTUATION",".")){let t=this.consumeIdentifierName();i={type:"MemberExpression",object:i,property:{type:"Identifier",name:t},computed:!1}}else if(this.match("PUNCTUATION","[")){let t=this.parseExpression();this.consume("PUNCTUATION","]"),i={type:"MemberExpression",object:i,property:t,computed:!0}}else if(this.match("PUNCTUATION","(")){let t=this.parseArguments();i={type:"CallExpression",callee:i,arguments:t}}else break;return i}parseArguments(){let i=[];if(!this.check("PUNCTUATION",")"))do i.push(this.parseExpression());while(this.match("PUNCTUATION",","));return this.consume("PUNCTUATION",")"),i}parsePrimary(){if(this.match("NUMBER"))return{type:"Literal",value:this.previous().value};if(this.match("STRING"))return{type:"Literal",value:this.previous().value};if(this.match("BOOLEAN"))return{type:"Literal",value:this.previous().value};if(this.match("NULL"))return{type:"Literal",value:null};if(this.match("UNDEFINED"))return{type:"Literal",value:void 0};if(this.match("IDENTIFIER"))return{type:"Identifier",name:this.previous().value};if(this.match("PUNCTUATION","(")){let i=this.parseExpression();return this.consume("PUNCTUATION",")"),i}if(this.match("PUNCTUATION","["))return this.parseArrayLiteral();if(this.match("PUNCTUATION","{"))return this.parseObjectLiteral();throw new Error(`Unexpected token: ${this.current().type} "${this.current().value}"`)}parseArrayLiteral(){let i=[];for(;!this.check("PUNCTUATION","]")&&!this.isAtEnd()&&(i.push(this.parseExpression()),this.match("PUNCTUATION",","));)if(this.check("PUNCTUATION","]"))break;return this.consume("PUNCTUATION","]"),{type:"ArrayExpression",elements:i}}parseObjectLiteral(){let i=[];for(;!this.check("PUNCTUATION","}")&&!this.isAtEnd();){let t,e=!1;if(this.match("STRING"))t={type:"Literal",value:this.previous().value};else if(this.checkIdentifierName())t={type:"Identifier",name:this.consumeIdentifierName()};else if(this.match("PUNCTUATION","["))t=this.parseExpression(),e=!0,this.consume("PUNCTUATION","]");else throw new Error("Expected property key");this.consume("PUNCTUATION",":");let n=this.parseExpression();if(i.push({type:"Property",key:t,value:n,computed:e,shorthand:!1}),this.match("PUNCTUATION",",")){if(this.check("PUNCTUATION","}"))break}else break}return this.consume("PUNCTUATION","}"),{type:"ObjectExpression",properties:i}}match(...i){for(let t=0;t<i.length;t++){let e=i[t];if(t===0&&i.length>1){let n=e;for(let s=1;s<i.length;s++)if(this.check(n,i[s]))return this.advance(),!0;return!1}else if(i.length===1)return this.checkType(e)?(this.advance(),!0):!1}return!1}check(i,t){return this.isAtEnd()?!1:t!==void 0?this.current().type===i&&this.current().value===t:this.current().type===i}checkType(i){return this.isAtEnd()?!1:this.current().type===i}advance(){return this.isAtEnd()||this.position++,this.previous()}isAtEnd(){return this.current().type==="EOF"}current(){return this.tokens[this.position]}previous(){return this.tokens[this.position-1]}consume(i,t){if(t!==void 0){if(this.check(i,t))return this.advance();throw new Error(`Expected ${i} "${t}" but got ${this.current().type} "${this.current().value}"`)}if(this.check(i))return this.advance();throw new Error(`Expected ${i} but got ${this.current().type} "${this.current().value}"`)}checkIdentifierName(){return this.isAtEnd()?!1:D_.includes(this.current().type)}consumeIdentifierName(){if(!this.checkIdentifierName())throw new Error(`Expected an identifier name but got ${this.current().type} "${this.current().value}"`);let i=this.advance();switch(i.type){case"BOOLEAN":return i.value?"true":"false";case"NULL":return"null";case"UNDEFINED":return"undefined";default:return i.value}}},U_=class{evaluate({node:i,scope:t={},context:e=null,forceBindingRootScopeToFunctions:n=!0}){switch(i.type){case"Literal":return i.value;case"Identifier":if(i.name in t){let f=t[i.name];return this.checkForDangerousValues(f),typeof f=="function"?f.bind(t):f}throw new Error(`Undefined variable: ${i.name}`);case"MemberExpression":let s=this.evaluate({node:i.object,scope:t,context:e,forceBindingRootScopeToFunctions:n});if(s==null)throw new Error("Cannot read property of null or undefined");let r;i.computed?r=this.evaluate({node:i.property,scope:t,context:e,forceBindingRootScopeToFunctions:n}):r=i.property.name,this.checkForDangerousKeywords(r);let a=s[r];return this.checkForDangerousValues(a),typeof a=="function"?n?a.bind(t):a.bind(s):a;case"CallExpression":let o=i.arguments.map(f=>this.evaluate({node:f,scope:t,context:e,forceBindingRootScopeToFunctions:n})),l;if(i.callee.type==="MemberExpression"){let f=this.evaluate({node:i.callee.object,scope:t,context:e,forceBindingRootScopeToFunctions:n}),p;i.callee.computed?p=this.evaluate({node:i.callee.property,scope:t,context:e,forceBindingRootScopeToFunctions:n}):p=i.callee.property.name,this.checkForDangerousKeywords(p);let S=f[p];if(typeof S!="function")throw new Error("Value is not a function");l=S.apply(f,o)}else if(i.callee.type==="Identifier"){let f=i.callee.name,p;if(f in t)p=t[f];else throw new Error(`Undefined variable: ${f}`);if(typeof p!="function")throw new Error("Value is not a function");let S=e!==null?e:t;l=p.apply(S,o)}else{let f=this.evaluate({node:i.callee,scope:t,context:e,forceBindingRootScopeToFunctions:n});if(typeof f!="function")throw new Error("Value is not a function");l=f.apply(e,o)}return this.checkForDangerousValues(l),l;case"UnaryExpression":let c=this.evaluate({node:i.argument,scope:t,context:e,forceBindingRootScopeToFunctions:n});switch(i.operator){case"!":return!c;case"-":return-c;case"+":return+c;default:throw new Error(`Unknown unary operator: ${i.operator}`)}case"UpdateExpression":if(i.argument.type==="Identifier"){let f=i.argument.name;if(!(f in t))throw new Error(`Undefined variable: ${f}`);let p=t[f];return i.operator==="++"?t[f]=p+1:i.operator==="--"&&(t[f]=p-1),i.prefix?t[f]:p}else if(i.argument.type==="MemberExpression"){let f=this.evaluate({node:i.argument.object,scope:t,context:e,forceBindingRootScopeToFunctions:n}),p=i.argument.computed?this.evaluate({node:i.argument.property,scope:t,context:e,forceBindingRootScopeToFunctions:n}):i.argument.property.name;if(this.isDOMObject(f))throw new Error("Property assignments on DOM objects are prohibited in the CSP build");this.checkForDangerousKeywords(p);let S=f[p];return i.operator==="++"?f[p]=S+1:i.operator==="--"&&(f[p]=S-1),i.prefix?f[p]:S}throw new Error("Invalid update expression target");case"BinaryExpression":let h=this.evaluate({node:i.left,scope:t,context:e,forceBindingRootScopeToFunctions:n}),d=()=>this.evaluate({node:i.right,scope:t,context:e,forceBindingRootScopeToFunctions:n});if(i.operator==="&&")return h&&d();if(i.operator==="||")return h||d();let u=d();switch(i.operator){case"+":return h+u;case"-":return h-u;case"*":return h*u;case"/":return h/u;case"%":return h%u;case"==":return h==u;case"!=":return h!=u;case"===":return h===u;case"!==":return h!==u;case"<":return h<u;case">":return h>u;case"<=":return h<=u;case">=":return h>=u;default:throw new Error(`Unknown binary operator: ${i.operator}`)}case"ConditionalExpression":return this.evaluate({node:i.test,scope:t,context:e,forceBindingRootScopeToFunctions:n})?this.evaluate({node:i.consequent,scope:t,context:e,forceBindingRootScopeToFunctions:n}):this.evaluate({node:i.alternate,scope:t,context:e,forceBindingRootScopeToFunctions:n});case"AssignmentExpression":let g=this.evaluate({node:i.right,scope:t,context:e,forceBindingRootScopeToFunctions:n});if(i.left.type==="Identifier")return t[i.left.name]=g,g;if(i.left.type==="MemberExpression"){let f=this.evaluate({node:i.left.object,scope:t,context:e,forceBindingRootScopeToFunctions:n}),p=i.left.computed?this.evaluate({node:i.left.property,scope:t,context:e,forceBindingRootScopeToFunctions:n}):i.left.property.name;if(this.isDOMObject(f))throw new Error("Property assignments on DOM objects are prohibited in the CSP build");return this.checkForDangerousKeywords(p),f[p]=g,g}throw new Error("Invalid assignment target");case"ArrayExpression":return i.elements.map(f=>this.evaluate({node:f,scope:t,context:e,forceBindingRootScopeToFunctions:n}));case"ObjectExpression":let _={};for(let f of i.properties){let p=f.computed?this.evaluate({node:f.key,scope:t,context:e,forceBindingRootScopeToFunctions:n}):f.key.type==="Identifier"?f.key.name:this.evaluate({node:f.key,scope:t,context:e,forceBindingRootScopeToFunctions:n}),S=this.evaluate({node:f.value,scope:t,context:e,forceBindingRootScopeToFunctions:n});_[p]=S}return _;default:throw new Error(`Unknown node type: ${i.type}`)}}isDOMObject(i){if(i instanceof Node||typeof CSSStyleDeclaration<"u"&&i instanceof CSSStyleDeclaration||typeof DOMStringMap<"u"&&i instanceof DOMStringMap||typeof DOMTokenList<"u"&&i instanceof DOMTokenList||typeof NamedNodeMap<"u"&&i instanceof NamedNodeMap)return!0;let t=i!=null&&i.constructor;return!!(t&&typeof t.name=="string"&&/^(SVG|CSS|DOM)[A-Z]/.test(t.name))}checkForDangerousKeywords(i){if(["constructor","prototype","__proto__","__defineGetter__","__defineSetter__","insertAdjacentHTML","insertAdjacentElement","insertAdjacentText","setAttribute","setAttributeNS","setAttributeNode","setAttributeNodeNS","createElement","createElementNS","createDocumentFragment","createContextualFragment","appendChild","insertBefore","replaceChild"].includes(i))throw new Error(`Accessing "${i}" is prohibited in the CSP build`)}checkForDangerousValues(i){if(i!==null&&!(typeof i!="object"&&typeof i!="function")&&!Bu.has(i)){if(i instanceof HTMLIFrameElement||i instanceof HTMLScriptElement||typeof SVGScriptElement<"u"&&i instanceof SVGScriptElement)throw new Error("Accessing iframes and scripts is prohibited in the CSP build");if(typeof Document<"u"&&i instanceof Document)throw new Error("Accessing document objects is prohibited in the CSP build");if(zd.has(i))throw new Error("Accessing global variables is prohibited in the CSP build");return Bu.set(i,!0),!0}}};function Hd(i){try{let e=new N_(i).tokenize(),s=new O_(e).parse(),r=new U_;return function(a={}){let{scope:o={},context:l=null,forceBindingRootScopeToFunctions:c=!1}=a;return r.evaluate({node:s,scope:o,context:l,forceBindingRootScopeToFunctions:c})}}catch(t){throw new Error(`CSP Parser Error: ${t.message}`)}}function F_(i,t,e={}){let n=Vd(i),s=On([e.scope??{},...n]),r=e.params??[],o=Hd(t)({scope:s,forceBindingRootScopeToFunctions:!0});return typeof o=="function"&&Ln?o.apply(s,r):o}function k_(i,t){let e=Vd(i);if(typeof t=="function")return Ug(e,t);let n=B_(i,t,e);return Ig.bind(null,i,t,n)}function Vd(i){let t={};return oa(t,i),[t,...ss(i)]}function B_(i,t,e){if(i instanceof HTMLIFrameElement)throw new Error("Evaluating expressions on an iframe is prohibited in the CSP build");if(i instanceof HTMLScriptElement)throw new Error("Evaluating expressions on a script is prohibited in the CSP build");return(n=()=>{},{scope:s={},params:r=[]}={})=>{let a=On([s,...e]),l=Hd(t)({scope:a,forceBindingRootScopeToFunctions:!0});if(Ln&&typeof l=="function"){let c=l.apply(l,r);c instanceof Promise?c.then(h=>n(h)):n(c)}else typeof l=="object"&&l instanceof Promise?l.then(c=>n(c)):n(l)}}function Gd(i){let t=Object.create(null);for(let e of i.split(","))t[e]=1;return e=>e in t}var ww=Object.freeze({}),Ew=Object.freeze([]),er=Object.assign,z_=Object.prototype.hasOwnProperty,mc=(i,t)=>z_.call(i,t),ir=Array.isArray,Js=i=>Wd(i)==="[object Map]",H_=i=>typeof i=="string",lr=i=>typeof i=="symbol",nr=i=>i!==null&&typeof i=="object",V_=Object.prototype.toString,Wd=i=>V_.call(i),Xd=i=>Wd(i).slice(8,-1),Uc=i=>H_(i)&&i!=="NaN"&&i[0]!=="-"&&""+parseInt(i,10)===i,ya=i=>{let t=Object.create(null);return e=>t[e]||(t[e]=i(e))},G_=/-\w/g,Tw=ya(i=>i.replace(G_,t=>t.slice(1).toUpperCase())),W_=/\B([A-Z])/g,Aw=ya(i=>i.replace(W_,"-$1").toLowerCase()),qd=ya(i=>i.charAt(0).toUpperCase()+i.slice(1)),Rw=ya(i=>i?`on${qd(i)}`:""),Pn=(i,t)=>!Object.is(i,t),X_="itemscope,allowfullscreen,formnovalidate,ismap,nomodule,novalidate,readonly",Cw=Gd(X_+",async,autofocus,autoplay,controls,default,defer,disabled,inert,loop,open,required,reversed,scoped,seamless,checked,muted,multiple,selected");function Fn(i,...t){console.warn(`[Vue warn] ${i}`,...t)}var Zl,Qt,Kl=new WeakSet,zu=class{constructor(i){this.fn=i,this.deps=void 0,this.depsTail=void 0,this.flags=5,this.next=void 0,this.cleanup=void 0,this.scheduler=void 0,Zl&&(Zl.active?Zl.effects.push(this):this.flags&=-2)}pause(){this.flags|=64}resume(){this.flags&64&&(this.flags&=-65,Kl.has(this)&&(Kl.delete(this),this.trigger()))}notify(){this.flags&2&&!(this.flags&32)||this.flags&8||q_(this)}run(){if(!(this.flags&1))return this.fn();this.flags|=2,Hu(this),Yd(this);let i=Qt,t=ui;Qt=this,ui=!0;try{return this.fn()}finally{Qt!==this&&Fn("Active effect was not restored correctly - this is likely a Vue internal bug."),Zd(this),Qt=i,ui=t,this.flags&=-3}}stop(){if(this.flags&1){for(let i=this.deps;i;i=i.nextDep)Bc(i);this.deps=this.depsTail=void 0,Hu(this),this.onStop&&this.onStop(),this.flags&=-2}}trigger(){this.flags&64?Kl.add(this):this.scheduler?this.scheduler():this.runIfDirty()}runIfDirty(){gc(this)&&this.run()}get dirty(){return gc(this)}},$d=0,js,Qs;function q_(i,t=!1){if(i.flags|=8,t){i.next=Qs,Qs=i;return}i.next=js,js=i}function Fc(){$d++}function kc(){if(--$d>0)return;if(Qs){let t=Qs;for(Qs=void 0;t;){let e=t.next;t.next=void 0,t.flags&=-9,t=e}}let i;for(;js;){let t=js;for(js=void 0;t;){let e=t.next;if(t.next=void 0,t.flags&=-9,t.flags&1)try{t.trigger()}catch(n){i||(i=n)}t=e}}if(i)throw i}function Yd(i){for(let t=i.deps;t;t=t.nextDep)t.version=-1,t.prevActiveLink=t.dep.activeLink,t.dep.activeLink=t}function Zd(i){let t,e=i.depsTail,n=e;for(;n;){let s=n.prevDep;n.version===-1?(n===e&&(e=s),Bc(n),Y_(n)):t=n,n.dep.activeLink=n.prevActiveLink,n.prevActiveLink=void 0,n=s}i.deps=t,i.depsTail=e}function gc(i){for(let t=i.deps;t;t=t.nextDep)if(t.dep.version!==t.version||t.dep.computed&&($_(t.dep.computed)||t.dep.version!==t.version))return!0;return!!i._dirty}function $_(i){if(i.flags&4&&!(i.flags&16)||(i.flags&=-17,i.globalVersion===ha)||(i.globalVersion=ha,!i.isSSR&&i.flags&128&&(!i.deps&&!i._dirty||!gc(i))))return;i.flags|=2;let t=i.dep,e=Qt,n=ui;Qt=i,ui=!0;try{Yd(i);let s=i.fn(i._value);(t.version===0||Pn(s,i._value))&&(i.flags|=128,i._value=s,t.version++)}catch(s){throw t.version++,s}finally{Qt=e,ui=n,Zd(i),i.flags&=-3}}function Bc(i,t=!1){let{dep:e,prevSub:n,nextSub:s}=i;if(n&&(n.nextSub=s,i.prevSub=void 0),s&&(s.prevSub=n,i.nextSub=void 0),e.subsHead===i&&(e.subsHead=s),e.subs===i&&(e.subs=n,!n&&e.computed)){e.computed.flags&=-5;for(let r=e.computed.deps;r;r=r.nextDep)Bc(r,!0)}!t&&!--e.sc&&e.map&&e.map.delete(e.key)}function Y_(i){let{prevDep:t,nextDep:e}=i;t&&(t.nextDep=e,i.prevDep=void 0),e&&(e.prevDep=t,i.nextDep=void 0)}function Z_(i,t){i.effect instanceof zu&&(i=i.effect.fn);let e=new zu(i);t&&er(e,t);try{e.run()}catch(s){throw e.stop(),s}let n=e.run.bind(e);return n.effect=e,n}function K_(i){i.effect.stop()}var ui=!0,Kd=[];function J_(){Kd.push(ui),ui=!1}function j_(){let i=Kd.pop();ui=i===void 0?!0:i}function Hu(i){let{cleanup:t}=i;if(i.cleanup=void 0,t){let e=Qt;Qt=void 0;try{t()}finally{Qt=e}}}var ha=0,Q_=class{constructor(i,t){this.sub=i,this.dep=t,this.version=t.version,this.nextDep=this.prevDep=this.nextSub=this.prevSub=this.prevActiveLink=void 0}},t0=class{constructor(i){this.computed=i,this.version=0,this.activeLink=void 0,this.subs=void 0,this.map=void 0,this.key=void 0,this.sc=0,this.__v_skip=!0,this.subsHead=void 0}track(i){if(!Qt||!ui||Qt===this.computed)return;let t=this.activeLink;if(t===void 0||t.sub!==Qt)t=this.activeLink=new Q_(Qt,this),Qt.deps?(t.prevDep=Qt.depsTail,Qt.depsTail.nextDep=t,Qt.depsTail=t):Qt.deps=Qt.depsTail=t,Jd(t);else if(t.version===-1&&(t.version=this.version,t.nextDep)){let e=t.nextDep;e.prevDep=t.prevDep,t.prevDep&&(t.prevDep.nextDep=e),t.prevDep=Qt.depsTail,t.nextDep=void 0,Qt.depsTail.nextDep=t,Qt.depsTail=t,Qt.deps===t&&(Qt.deps=e)}return Qt.onTrack&&Qt.onTrack(er({effect:Qt},i)),t}trigger(i){this.version++,ha++,this.notify(i)}notify(i){Fc();try{for(let t=this.subsHead;t;t=t.nextSub)t.sub.onTrigger&&!(t.sub.flags&8)&&t.sub.onTrigger(er({effect:t.sub},i));for(let t=this.subs;t;t=t.prevSub)t.sub.notify()&&t.sub.dep.notify()}finally{kc()}}};function Jd(i){if(i.dep.sc++,i.sub.flags&4){let t=i.dep.computed;if(t&&!i.dep.subs){t.flags|=20;for(let n=t.deps;n;n=n.nextDep)Jd(n)}let e=i.dep.subs;e!==i&&(i.prevSub=e,e&&(e.nextSub=i)),i.dep.subsHead===void 0&&(i.dep.subsHead=i),i.dep.subs=i}}var _c=new WeakMap,Nn=Symbol("Object iterate"),xc=Symbol("Map keys iterate"),sr=Symbol("Array iterate");function Xe(i,t,e){if(ui&&Qt){let n=_c.get(i);n||_c.set(i,n=new Map);let s=n.get(e);s||(n.set(e,s=new t0),s.map=n,s.key=e),s.track({target:i,type:t,key:e})}}function sn(i,t,e,n,s,r){let a=_c.get(i);if(!a){ha++;return}let o=l=>{l&&l.trigger({target:i,type:t,key:e,newValue:n,oldValue:s,oldTarget:r})};if(Fc(),t==="clear")a.forEach(o);else{let l=ir(i),c=l&&Uc(e);if(l&&e==="length"){let h=Number(n);a.forEach((d,u)=>{(u==="length"||u===sr||!lr(u)&&u>=h)&&o(d)})}else switch((e!==void 0||a.has(void 0))&&o(a.get(e)),c&&o(a.get(sr)),t){case"add":l?c&&o(a.get("length")):(o(a.get(Nn)),Js(i)&&o(a.get(xc)));break;case"delete":l||(o(a.get(Nn)),Js(i)&&o(a.get(xc)));break;case"set":Js(i)&&o(a.get(Nn));break}}kc()}function is(i){let t=te(i);return t===i?t:(Xe(t,"iterate",sr),Bn(i)?t:t.map(zn))}function zc(i){return Xe(i=te(i),"iterate",sr),i}function Mi(i,t){return kn(i)?rf(i)?rr(zn(t)):rr(t):zn(t)}var e0={__proto__:null,[Symbol.iterator](){return Jl(this,Symbol.iterator,i=>Mi(this,i))},concat(...i){return is(this).concat(...i.map(t=>ir(t)?is(t):t))},entries(){return Jl(this,"entries",i=>(i[1]=Mi(this,i[1]),i))},every(i,t){return Bi(this,"every",i,t,void 0,arguments)},filter(i,t){return Bi(this,"filter",i,t,e=>e.map(n=>Mi(this,n)),arguments)},find(i,t){return Bi(this,"find",i,t,e=>Mi(this,e),arguments)},findIndex(i,t){return Bi(this,"findIndex",i,t,void 0,arguments)},findLast(i,t){return Bi(this,"findLast",i,t,e=>Mi(this,e),arguments)},findLastIndex(i,t){return Bi(this,"findLastIndex",i,t,void 0,arguments)},forEach(i,t){return Bi(this,"forEach",i,t,void 0,arguments)},includes(...i){return jl(this,"includes",i)},indexOf(...i){return jl(this,"indexOf",i)},join(i){return is(this).join(i)},lastIndexOf(...i){return jl(this,"lastIndexOf",i)},map(i,t){return Bi(this,"map",i,t,void 0,arguments)},pop(){return Ys(this,"pop")},push(...i){return Ys(this,"push",i)},reduce(i,...t){return Vu(this,"reduce",i,t)},reduceRight(i,...t){return Vu(this,"reduceRight",i,t)},shift(){return Ys(this,"shift")},some(i,t){return Bi(this,"some",i,t,void 0,arguments)},splice(...i){return Ys(this,"splice",i)},toReversed(){return is(this).toReversed()},toSorted(i){return is(this).toSorted(i)},toSpliced(...i){return is(this).toSpliced(...i)},unshift(...i){return Ys(this,"unshift",i)},values(){return Jl(this,"values",i=>Mi(this,i))}};function Jl(i,t,e){let n=zc(i),s=n[t]();return n!==i&&!Bn(i)&&(s._next=s.next,s.next=()=>{let r=s._next();return r.done||(r.value=e(r.value)),r}),s}var i0=Array.prototype;function Bi(i,t,e,n,s,r){let a=zc(i),o=a!==i&&!Bn(i),l=a[t];if(l!==i0[t]){let d=l.apply(i,r);return o?zn(d):d}let c=e;a!==i&&(o?c=function(d,u){return e.call(this,Mi(i,d),u,i)}:e.length>2&&(c=function(d,u){return e.call(this,d,u,i)}));let h=l.call(a,c,n);return o&&s?s(h):h}function Vu(i,t,e,n){let s=zc(i),r=s!==i&&!Bn(i),a=e,o=!1;s!==i&&(r?(o=n.length===0,a=function(c,h,d){return o&&(o=!1,c=Mi(i,c)),e.call(this,c,Mi(i,h),d,i)}):e.length>3&&(a=function(c,h,d){return e.call(this,c,h,d,i)}));let l=s[t](a,...n);return o?Mi(i,l):l}function jl(i,t,e){let n=te(i);Xe(n,"iterate",sr);let s=n[t](...e);return(s===-1||s===!1)&&g0(e[0])?(e[0]=te(e[0]),n[t](...e)):s}function Ys(i,t,e=[]){J_(),Fc();let n=te(i)[t].apply(i,e);return kc(),j_(),n}var n0=Gd("__proto__,__v_isRef,__isVue"),jd=new Set(Object.getOwnPropertyNames(Symbol).filter(i=>i!=="arguments"&&i!=="caller").map(i=>Symbol[i]).filter(lr));function s0(i){lr(i)||(i=String(i));let t=te(this);return Xe(t,"has",i),t.hasOwnProperty(i)}var Qd=class{constructor(i=!1,t=!1){this._isReadonly=i,this._isShallow=t}get(i,t,e){if(t==="__v_skip")return i.__v_skip;let n=this._isReadonly,s=this._isShallow;if(t==="__v_isReactive")return!n;if(t==="__v_isReadonly")return n;if(t==="__v_isShallow")return s;if(t==="__v_raw")return e===(n?s?p0:nf:s?f0:ef).get(i)||Object.getPrototypeOf(i)===Object.getPrototypeOf(e)?i:void 0;let r=ir(i);if(!n){let o;if(r&&(o=e0[t]))return o;if(t==="hasOwnProperty")return s0}let a=Reflect.get(i,t,tr(i)?i:e);if((lr(t)?jd.has(t):n0(t))||(n||Xe(i,"get",t),s))return a;if(tr(a)){let o=r&&Uc(t)?a:a.value;return n&&nr(o)?vc(o):o}return nr(a)?n?vc(a):Hc(a):a}},r0=class extends Qd{constructor(i=!1){super(!1,i)}set(i,t,e,n){let s=i[t],r=ir(i)&&Uc(t);if(!this._isShallow){let l=kn(s);if(!Bn(e)&&!kn(e)&&(s=te(s),e=te(e)),!r&&tr(s)&&!tr(e))return l?(Fn(`Set operation on key "${String(t)}" failed: target is readonly.`,i[t]),!0):(s.value=e,!0)}let a=r?Number(t)<i.length:mc(i,t),o=Reflect.set(i,t,e,tr(i)?i:n);return i===te(n)&&o&&(a?Pn(e,s)&&sn(i,"set",t,e,s):sn(i,"add",t,e)),o}deleteProperty(i,t){let e=mc(i,t),n=i[t],s=Reflect.deleteProperty(i,t);return s&&e&&sn(i,"delete",t,void 0,n),s}has(i,t){let e=Reflect.has(i,t);return(!lr(t)||!jd.has(t))&&Xe(i,"has",t),e}ownKeys(i){return Xe(i,"iterate",ir(i)?"length":Nn),Reflect.ownKeys(i)}},a0=class extends Qd{constructor(i=!1){super(!0,i)}set(i,t){return Fn(`Set operation on key "${String(t)}" failed: target is readonly.`,i),!0}deleteProperty(i,t){return Fn(`Delete operation on key "${String(t)}" failed: target is readonly.`,i),!0}},o0=new r0,l0=new a0,yc=i=>i,ea=i=>Reflect.getPrototypeOf(i);function c0(i,t,e){return function(...n){let s=this.__v_raw,r=te(s),a=Js(r),o=i==="entries"||i===Symbol.iterator&&a,l=i==="keys"&&a,c=s[i](...n),h=e?yc:t?rr:zn;return!t&&Xe(r,"iterate",l?xc:Nn),er(Object.create(c),{next(){let{value:d,done:u}=c.next();return u?{value:d,done:u}:{value:o?[h(d[0]),h(d[1])]:h(d),done:u}}})}}function ia(i){return function(...t){{let e=t[0]?`on key "${t[0]}" `:"";Fn(`${qd(i)} operation ${e}failed: target is readonly.`,te(this))}return i==="delete"?!1:i==="clear"?void 0:this}}function h0(i,t){let e={get(s){let r=this.__v_raw,a=te(r),o=te(s);i||(Pn(s,o)&&Xe(a,"get",s),Xe(a,"get",o));let{has:l}=ea(a),c=t?yc:i?rr:zn;if(l.call(a,s))return c(r.get(s));if(l.call(a,o))return c(r.get(o));r!==a&&r.get(s)},get size(){let s=this.__v_raw;return!i&&Xe(te(s),"iterate",Nn),s.size},has(s){let r=this.__v_raw,a=te(r),o=te(s);return i||(Pn(s,o)&&Xe(a,"has",s),Xe(a,"has",o)),s===o?r.has(s):r.has(s)||r.has(o)},forEach(s,r){let a=this,o=a.__v_raw,l=te(o),c=t?yc:i?rr:zn;return!i&&Xe(l,"iterate",Nn),o.forEach((h,d)=>s.call(r,c(h),c(d),a))}};return er(e,i?{add:ia("add"),set:ia("set"),delete:ia("delete"),clear:ia("clear")}:{add(s){let r=te(this),a=ea(r),o=te(s),l=!t&&!Bn(s)&&!kn(s)?o:s;return a.has.call(r,l)||Pn(s,l)&&a.has.call(r,s)||Pn(o,l)&&a.has.call(r,o)||(r.add(l),sn(r,"add",l,l)),this},set(s,r){!t&&!Bn(r)&&!kn(r)&&(r=te(r));let a=te(this),{has:o,get:l}=ea(a),c=o.call(a,s);c?Gu(a,o,s):(s=te(s),c=o.call(a,s));let h=l.call(a,s);return a.set(s,r),c?Pn(r,h)&&sn(a,"set",s,r,h):sn(a,"add",s,r),this},delete(s){let r=te(this),{has:a,get:o}=ea(r),l=a.call(r,s);l?Gu(r,a,s):(s=te(s),l=a.call(r,s));let c=o?o.call(r,s):void 0,h=r.delete(s);return l&&sn(r,"delete",s,void 0,c),h},clear(){let s=te(this),r=s.size!==0,a=Js(s)?new Map(s):new Set(s),o=s.clear();return r&&sn(s,"clear",void 0,void 0,a),o}}),["keys","values","entries",Symbol.iterator].forEach(s=>{e[s]=c0(s,i,t)}),e}function tf(i,t){let e=h0(i,t);return(n,s,r)=>s==="__v_isReactive"?!i:s==="__v_isReadonly"?i:s==="__v_raw"?n:Reflect.get(mc(e,s)&&s in n?e:n,s,r)}var u0={get:tf(!1,!1)},d0={get:tf(!0,!1)};function Gu(i,t,e){let n=te(e);if(n!==e&&t.call(i,n)){let s=Xd(i);Fn(`Reactive ${s} contains both the raw and reactive versions of the same object${s==="Map"?" as keys":""}, which can lead to inconsistencies. Avoid differentiating between the raw and reactive versions of an object and only use the reactive version if possible.`)}}var ef=new WeakMap,f0=new WeakMap,nf=new WeakMap,p0=new WeakMap;function m0(i){switch(i){case"Object":case"Array":return 1;case"Map":case"Set":case"WeakMap":case"WeakSet":return 2;default:return 0}}function Hc(i){return kn(i)?i:sf(i,!1,o0,u0,ef)}function vc(i){return sf(i,!0,l0,d0,nf)}function sf(i,t,e,n,s){if(!nr(i))return Fn(`value cannot be made ${t?"readonly":"reactive"}: ${String(i)}`),i;if(i.__v_raw&&!(t&&i.__v_isReactive)||i.__v_skip||!Object.isExtensible(i))return i;let r=s.get(i);if(r)return r;let a=m0(Xd(i));if(a===0)return i;let o=new Proxy(i,a===2?n:e);return s.set(i,o),o}function rf(i){return kn(i)?rf(i.__v_raw):!!(i&&i.__v_isReactive)}function kn(i){return!!(i&&i.__v_isReadonly)}function Bn(i){return!!(i&&i.__v_isShallow)}function g0(i){return i?!!i.__v_raw:!1}function te(i){let t=i&&i.__v_raw;return t?te(t):i}var zn=i=>nr(i)?Hc(i):i,rr=i=>nr(i)?vc(i):i;function tr(i){return i?i.__v_isRef===!0:!1}di("nextTick",()=>Lc);di("dispatch",i=>Ks.bind(Ks,i));di("watch",(i,{evaluateLater:t,cleanup:e})=>(n,s)=>{let r=t(n),o=Zu(()=>{let l;return r(c=>l=c),l},s);e(o)});di("store",A_);di("data",i=>nd(i));di("root",i=>_a(i));di("refs",i=>(i._x_refs_proxy||(i._x_refs_proxy=On(_0(i))),i._x_refs_proxy));function _0(i){let t=[];return oi(i,e=>{e._x_refs&&t.push(e._x_refs)}),t}var Ql={};function af(i){return Ql[i]||(Ql[i]=0),++Ql[i]}function x0(i,t){return oi(i,e=>{if(e._x_ids&&e._x_ids[t])return!0})}function y0(i,t){i._x_ids||(i._x_ids={}),i._x_ids[t]||(i._x_ids[t]=af(t))}di("id",(i,{cleanup:t})=>(e,n=null)=>{let s=`${e}${n?`-${n}`:""}`;return v0(i,s,t,()=>{let r=x0(i,e),a=r?r._x_ids[e]:af(e);return n?`${e}-${a}-${n}`:`${e}-${a}`})});or((i,t)=>{i._x_id&&(t._x_id=i._x_id)});function v0(i,t,e,n){if(i._x_id||(i._x_id={}),i._x_id[t])return i._x_id[t];let s=n();return i._x_id[t]=s,e(()=>{delete i._x_id[t]}),s}di("el",i=>i);of("Focus","focus","focus");of("Persist","persist","persist");function of(i,t,e){di(t,n=>bi(`You can't use [$${t}] without first installing the "${i}" plugin here: https://alpinejs.dev/plugins/${e}`,n))}pe("modelable",(i,{expression:t},{effect:e,evaluateLater:n,cleanup:s})=>{let r=n(t),a=()=>{let h;return r(d=>h=d),h},o=n(`${t} = __placeholder`),l=h=>o(()=>{},{scope:{__placeholder:h}}),c=a();l(c),queueMicrotask(()=>{if(!i._x_model)return;i._x_removeModelListeners.default();let h=i._x_model.get,d=i._x_model.setWithModifiers,u=Ud({get(){return h()},set(m){d(m)}},{get(){return a()},set(m){l(m)}});s(u)})});pe("teleport",(i,{modifiers:t,expression:e},{cleanup:n})=>{i.tagName.toLowerCase()!=="template"&&bi("x-teleport can only be used on a <template> tag",i);let s=Wu(e),r=i.content.cloneNode(!0).firstElementChild;i._x_teleport=r,r._x_teleportBack=i,i.setAttribute("data-teleport-template",!0),r.setAttribute("data-teleport-target",!0),i._x_forwardEvents&&i._x_forwardEvents.forEach(o=>{r.addEventListener(o,l=>{l.stopPropagation(),i.dispatchEvent(new l.constructor(l.type,l))})}),ar(r,{},i);let a=(o,l,c)=>{c.includes("prepend")?l.parentNode.insertBefore(o,l):c.includes("append")?l.parentNode.insertBefore(o,l.nextSibling):l.appendChild(o)};fe(()=>{Vi(()=>{a(r,s,t),wi(r)})()}),i._x_teleportPutBack=()=>{let o=Wu(e);fe(()=>{a(i._x_teleport,o,t)})},n(()=>fe(()=>{r.remove(),Vn(r)}))});var S0=document.createElement("div");function Wu(i){let t=Vi(()=>document.querySelector(i),()=>S0)();return t||bi(`Cannot find x-teleport element for selector: "${i}"`),t}var lf=()=>{};lf.inline=(i,{modifiers:t},{cleanup:e})=>{t.includes("self")?i._x_ignoreSelf=!0:i._x_ignore=!0,e(()=>{t.includes("self")?delete i._x_ignoreSelf:delete i._x_ignore})};pe("ignore",lf);pe("effect",Vi((i,{expression:t},{effect:e})=>{e(ze(i,t))}));function ns(i,t,e,n){let s=i,r=l=>n(l),a={},o=(l,c)=>h=>c(l,h);return e.includes("dot")&&(t=M0(t)),e.includes("camel")&&(t=b0(t)),e.includes("capture")&&(a.capture=!0),e.includes("window")&&(s=window),e.includes("document")&&(s=document),e.includes("passive")&&(a.passive=e[e.indexOf("passive")+1]!=="false"),r=cf(e,r),e.includes("prevent")&&(r=o(r,(l,c)=>{c.preventDefault(),l(c)})),e.includes("stop")&&(r=o(r,(l,c)=>{c.stopPropagation(),l(c)})),e.includes("once")&&(r=o(r,(l,c)=>{l(c),s.removeEventListener(t,r,a)})),(e.includes("away")||e.includes("outside"))&&(s=document,r=o(r,(l,c)=>{i.contains(c.target)||c.target.isConnected!==!1&&(i.offsetWidth<1&&i.offsetHeight<1||i._x_isShown!==!1&&l(c))})),e.includes("self")&&(r=o(r,(l,c)=>{c.target===i&&l(c)})),t==="submit"&&(r=o(r,(l,c)=>{c.target._x_pendingModelUpdates&&c.target._x_pendingModelUpdates.forEach(h=>h()),l(c)})),(E0(t)||hf(t))&&(r=o(r,(l,c)=>{A0(c,e)||l(c)})),s.addEventListener(t,r,a),()=>{s.removeEventListener(t,r,a)}}function cf(i,t){if(i.includes("debounce")){let e=i[i.indexOf("debounce")+1]||"invalid-wait",n=ua(e.split("ms")[0])?Number(e.split("ms")[0]):250;t=Nd(t,n)}if(i.includes("throttle")){let e=i[i.indexOf("throttle")+1]||"invalid-wait",n=ua(e.split("ms")[0])?Number(e.split("ms")[0]):250;t=Od(t,n)}return t}function M0(i){return i.replace(/-/g,".")}function b0(i){return i.toLowerCase().replace(/-(\w)/g,(t,e)=>e.toUpperCase())}function ua(i){return!Array.isArray(i)&&!isNaN(i)}function w0(i){return[" ","_"].includes(i)?i:i.replace(/([a-z])([A-Z])/g,"$1-$2").replace(/[_\s]/,"-").toLowerCase()}function E0(i){return["keydown","keyup"].includes(i)}function hf(i){return["contextmenu","click","mouse"].some(t=>i.includes(t))}var T0=["window","document","prevent","stop","once","capture","self","away","outside","passive","dot","camel","preserve-scroll","blur","change","lazy","number","boolean","trim","fill","unintrusive","parent"];function A0(i,t){let e=t.filter((r,a)=>r==="false"&&t[a-1]==="passive"?!1:!T0.includes(r));if(e.includes("debounce")){let r=e.indexOf("debounce");e.splice(r,ua((e[r+1]||"invalid-wait").split("ms")[0])?2:1)}if(e.includes("throttle")){let r=e.indexOf("throttle");e.splice(r,ua((e[r+1]||"invalid-wait").split("ms")[0])?2:1)}if(e.length===0||e.length===1&&Xu(i.key).includes(e[0]))return!1;let s=["ctrl","shift","alt","meta","cmd","super"].filter(r=>e.includes(r));return e=e.filter(r=>!s.includes(r)),!(s.length>0&&s.filter(a=>((a==="cmd"||a==="super")&&(a="meta"),i[`${a}Key`])).length===s.length&&(hf(i.type)||Xu(i.key).includes(e[0])))}function Xu(i){if(!i)return[];i=w0(i);let t={ctrl:"control",slash:"/",space:" ",spacebar:" ",cmd:"meta",esc:"escape",up:"arrow-up",down:"arrow-down",left:"arrow-left",right:"arrow-right",period:".",comma:",",equal:"=",minus:"-",underscore:"_"};return t[i]=i,Object.keys(t).map(e=>{if(t[e]===i)return e}).filter(e=>e)}pe("model",(i,{modifiers:t,expression:e},{effect:n,cleanup:s})=>{let r=i;t.includes("parent")&&(r=oi(i,_=>_!==i));let a=ze(r,e),o;typeof e=="string"?o=ze(r,`${e} = __placeholder`):typeof e=="function"&&typeof e()=="string"?o=ze(r,`${e()} = __placeholder`):o=()=>{};let l=()=>{let _;return a(f=>_=f),qu(_)?_.get():_},c=_=>{let f;a(p=>f=p),qu(f)?f.set(_):o(()=>{},{scope:{__placeholder:_}})};typeof e=="string"&&i.type==="radio"&&fe(()=>{i.hasAttribute("name")||i.setAttribute("name",e)});let h=t.includes("change")||t.includes("lazy"),d=t.includes("blur"),u=t.includes("enter"),m=h||d||u,g;if(rn)g=()=>{};else if(m){let _=[],f=p=>c(na(i,t,p,l()));if(h&&_.push(ns(i,"change",t,f)),d&&(_.push(ns(i,"blur",t,f)),i.form)){let p=i.form,S=()=>f({target:i});p._x_pendingModelUpdates||(p._x_pendingModelUpdates=[]),p._x_pendingModelUpdates.push(S),s(()=>{p._x_pendingModelUpdates&&p._x_pendingModelUpdates.splice(p._x_pendingModelUpdates.indexOf(S),1)})}u&&_.push(ns(i,"keydown",t,p=>{p.key==="Enter"&&f(p)})),g=()=>_.forEach(p=>p())}else{let _=i.tagName.toLowerCase()==="select"||["checkbox","radio"].includes(i.type)?"change":"input";g=ns(i,_,t,f=>{c(na(i,t,f,l()))})}if(t.includes("fill")&&([void 0,null,""].includes(l())||ca(i)&&Array.isArray(l())||i.tagName.toLowerCase()==="select"&&i.multiple)&&c(na(i,t,{target:i},l())),i._x_removeModelListeners||(i._x_removeModelListeners={}),i._x_removeModelListeners.default=g,s(()=>i._x_removeModelListeners.default()),i.form){let _=ns(i.form,"reset",[],f=>{Lc(()=>i._x_model&&i._x_model.set(na(i,t,{target:i},l())))});s(()=>_())}if(i._x_model={get(){return l()},set(_){c(_)},setWithModifiers:cf(t,c)},i._x_forceModelUpdate=_=>{_===void 0&&typeof e=="string"&&e.match(/\./)&&(_=""),fe(()=>{ca(i)?Array.isArray(_)?i.checked=_.some(f=>f==i.value):i.checked=!!_:Oc(i)?typeof _=="boolean"?i.checked=sa(i.value)===_:i.checked=i.value==_:Id(i,"value",_)})},i.tagName==="SELECT"){let _=new MutationObserver(()=>{i._x_forceModelUpdate(l())});_.observe(i,{childList:!0}),s(()=>_.disconnect())}n(()=>{let _=l();t.includes("unintrusive")&&document.activeElement.isSameNode(i)||i._x_forceModelUpdate(_)})});function na(i,t,e,n){return fe(()=>{if(e instanceof CustomEvent&&e.detail!==void 0)return e.detail!==null&&e.detail!==void 0?e.detail:e.target.value;if(ca(i))if(Array.isArray(n)){let s=null;return t.includes("number")?s=tc(e.target.value):t.includes("boolean")?s=sa(e.target.value):s=e.target.value,e.target.checked?n.includes(s)?n:n.concat([s]):n.filter(r=>!R0(r,s))}else return e.target.checked;else{if(i.tagName.toLowerCase()==="select"&&i.multiple)return t.includes("number")?Array.from(e.target.selectedOptions).map(s=>{let r=s.value||s.text;return tc(r)}):t.includes("boolean")?Array.from(e.target.selectedOptions).map(s=>{let r=s.value||s.text;return sa(r)}):Array.from(e.target.selectedOptions).map(s=>s.value||s.text);{let s;return Oc(i)?e.target.checked?s=e.target.value:s=n:s=e.target.value,t.includes("number")?tc(s):t.includes("boolean")?sa(s):t.includes("trim")?s.trim():s}}})}function tc(i){let t=i?parseFloat(i):null;return C0(t)?t:i}function R0(i,t){return i==t}function C0(i){return!Array.isArray(i)&&!isNaN(i)}function qu(i){return i!==null&&typeof i=="object"&&typeof i.get=="function"&&typeof i.set=="function"}pe("cloak",i=>queueMicrotask(()=>fe(()=>i.removeAttribute(os("cloak")))));Ad(()=>`[${os("init")}]`);pe("init",Vi((i,{expression:t},{evaluate:e})=>typeof t=="string"?!!t.trim()&&e(t,{},!1):e(t,{},!1)));pe("text",(i,{expression:t},{effect:e,evaluateLater:n})=>{let s=n(t);e(()=>{s(r=>{fe(()=>{i.textContent=r})})})});pe("html",(i,{expression:t},{effect:e,evaluateLater:n})=>{let s=n(t);e(()=>{s(r=>{fe(()=>{Array.from(i.children).forEach(a=>Vn(a)),i.innerHTML=r??"",i._x_ignoreSelf=!0,wi(i),delete i._x_ignoreSelf})})},{priority:"structural"})});Cc(pd(":",md(os("bind:"))));var uf=(i,{value:t,modifiers:e,expression:n,original:s},{effect:r,cleanup:a})=>{if(!t){let l={};C_(l),ze(i,n)(h=>{kd(i,h,s)},{scope:l});return}if(t==="key")return P0(i,n);if(i._x_inlineBindings&&i._x_inlineBindings[t]&&i._x_inlineBindings[t].extract)return;let o=ze(i,n);r(()=>o(l=>{l===void 0&&typeof n=="string"&&n.match(/\./)&&(l=""),fe(()=>Id(i,t,l,e))})),a(()=>{i._x_undoAddedClasses&&i._x_undoAddedClasses(),i._x_undoAddedStyles&&i._x_undoAddedStyles()})};uf.inline=(i,{value:t,modifiers:e,expression:n})=>{t&&(i._x_inlineBindings||(i._x_inlineBindings={}),i._x_inlineBindings[t]={expression:n,extract:!1})};pe("bind",uf);function P0(i,t){i._x_keyExpression=t}Td(()=>`[${os("data")}]`);var Rn=Symbol();pe("data",(i,{expression:t},{cleanup:e})=>{if(L0(i))return;let n=i[Rn];if(n?.expression===t)return;t=t===""?"{}":t;let s={};oa(s,i);let r={};I_(r,s);let a=Dn(i,t,{scope:r});(a===void 0||a===!0)&&(a={}),oa(a,i);let o;if(n?.reactiveData){o=n.reactiveData,I0(o,a);let c={expression:t};i[Rn]=c,queueMicrotask(()=>{i[Rn]===c&&delete i[Rn]})}else o=rs(a);Ac(o,e);let l=ar(i,o);Vi(()=>{o.init&&Dn(i,o.init)})(),e(()=>{o.destroy&&Dn(i,o.destroy),l();let c={reactiveData:o};i[Rn]=c,queueMicrotask(()=>{i[Rn]===c&&delete i[Rn]})})});function I0(i,t){Object.keys(t).forEach(e=>{let n=Object.getOwnPropertyDescriptor(t,e),s=Object.getOwnPropertyDescriptor(i,e);n.get||n.set||s?.get||s?.set?(s&&delete i[e],s||(i[e]=void 0),n.get||n.set?Object.defineProperty(i,e,n):i[e]=t[e]):i[e]=t[e]}),Object.keys(i).filter(e=>!Object.prototype.hasOwnProperty.call(t,e)).forEach(e=>delete i[e])}or((i,t)=>{i._x_dataStack&&(t._x_dataStack=i._x_dataStack,t.setAttribute("data-has-alpine-state",!0))});function L0(i){return rn?cc?!0:i.hasAttribute("data-has-alpine-state"):!1}pe("show",(i,{modifiers:t,expression:e},{effect:n})=>{let s=ze(i,e);i._x_doHide||(i._x_doHide=()=>{fe(()=>{i.style.setProperty("display","none",t.includes("important")?"important":void 0)})}),i._x_doShow||(i._x_doShow=()=>{fe(()=>{i.style.length===1&&i.style.display==="none"?i.removeAttribute("style"):i.style.removeProperty("display")})});let r=()=>{i._x_doHide(),i._x_isShown=!1},a=()=>{i._x_doShow(),i._x_isShown=!0},o=()=>setTimeout(a),l=fc(d=>d?a():r(),d=>{typeof i._x_toggleAndCascadeWithTransitions=="function"?i._x_toggleAndCascadeWithTransitions(i,d,a,r):d?o():r()}),c,h=!0;n(()=>s(d=>{!h&&d===c||(t.includes("immediate")&&(d?o():r()),l(d),c=d,h=!1)}))});pe("for",Vi((i,{expression:t},{effect:e,cleanup:n})=>{let s=O0(t),r=ze(i,s.items),a=ze(i,i._x_keyExpression||"index");i._x_lookup=new Map,e(()=>N0(i,s,r,a),{priority:"structural"}),n(()=>{i._x_lookup.forEach(o=>fe(()=>{Vn(o),o.remove()})),delete i._x_lookup,delete i._x_lastRenderedEl})}));function D0(i){return t=>{Object.entries(t).forEach(([e,n])=>{i[e]=n})}}function N0(i,t,e,n){e(s=>{F0(s)&&(s=Array.from({length:s},(c,h)=>h+1)),s==null&&(s=[]),s instanceof Set&&(s=Array.from(s)),s instanceof Map&&(s=Array.from(s));let r=i._x_lookup,a=new Map;i._x_lookup=a;let o=k0(s),l=Object.entries(s).map(([c,h])=>{o||(c=parseInt(c));let d=U0(t,h,c,s),u;return n(m=>{typeof m=="object"&&bi("x-for key cannot be an object, it must be a string or an integer",i),r.has(m)&&(a.set(m,r.get(m)),r.delete(m)),u=m},{scope:{index:c,...d}}),[u,d]});fe(()=>{r.forEach(d=>{Vn(d),d.remove()});let c=new Set,h=i;l.forEach(([d,u])=>{if(a.has(d)){let _=a.get(d);_._x_refreshXForScope(u),h.nextElementSibling!==_&&(h.nextElementSibling&&_.replaceWith(h.nextElementSibling),h.after(_)),h=_,_._x_currentIfEl&&(_.nextElementSibling!==_._x_currentIfEl&&h.after(_._x_currentIfEl),h=_._x_currentIfEl);return}i.content.children.length>1&&bi("x-for templates require a single root element, additional elements will be ignored.",i);let m=document.importNode(i.content,!0).firstElementChild,g=rs(u);ar(m,g,i),m._x_refreshXForScope=D0(g),a.set(d,m),c.add(m),h.after(m),h=m}),c.forEach(d=>wi(d)),h!==i?i._x_lastRenderedEl=h:delete i._x_lastRenderedEl})})}function O0(i){let t=/,([^,\}\]]*)(?:,([^,\}\]]*))?$/,e=/^\s*\(|\)\s*$/g,n=/([\s\S]*?)\b(?:in|of)\b([\s\S]*)/,s=i.match(n);if(!s)return;let r={};r.items=s[2].trim();let a=s[1].replace(e,"").trim(),o=a.match(t);return o?(r.item=a.replace(t,"").trim(),r.index=o[1].trim(),o[2]&&(r.collection=o[2].trim())):r.item=a,r}function U0(i,t,e,n){let s={};return/^\[.*\]$/.test(i.item)&&Array.isArray(t)?i.item.replace("[","").replace("]","").split(",").map(a=>a.trim()).forEach((a,o)=>{s[a]=t[o]}):/^\{.*\}$/.test(i.item)&&!Array.isArray(t)&&typeof t=="object"?i.item.replace("{","").replace("}","").split(",").map(a=>a.trim()).forEach(a=>{s[a]=t[a]}):s[i.item]=t,i.index&&(s[i.index]=e),i.collection&&(s[i.collection]=n),s}function F0(i){return typeof i!="object"&&!isNaN(i)}function k0(i){return typeof i=="object"&&!Array.isArray(i)}function df(){}df.inline=(i,{expression:t},{cleanup:e})=>{let n=_a(i);n&&(n._x_refs||(n._x_refs={}),n._x_refs[t]=i,e(()=>delete n._x_refs[t]))};pe("ref",df);pe("if",Vi((i,{expression:t},{effect:e,cleanup:n})=>{i.tagName.toLowerCase()!=="template"&&bi("x-if can only be used on a <template> tag",i);let s=ze(i,t),r=()=>{if(i._x_currentIfEl)return i._x_currentIfEl;let o=i.content.cloneNode(!0).firstElementChild;return ar(o,{},i),fe(()=>{i.after(o),wi(o)}),i._x_currentIfEl=o,i._x_lastRenderedEl=o,i._x_undoIf=()=>{fe(()=>{Vn(o),o.remove()}),delete i._x_currentIfEl,delete i._x_lastRenderedEl},o},a=()=>{i._x_undoIf&&(i._x_undoIf(),delete i._x_undoIf)};e(()=>s(o=>{o?r():a()}),{priority:"structural"}),n(()=>i._x_undoIf&&i._x_undoIf())}));pe("id",(i,{expression:t},{evaluate:e})=>{e(t).forEach(s=>y0(i,s))});or((i,t)=>{i._x_ids&&(t._x_ids=i._x_ids)});Cc(pd("@",md(os("on:"))));pe("on",Vi((i,{value:t,modifiers:e,expression:n},{cleanup:s})=>{let r=n?ze(i,n):()=>{};i.tagName.toLowerCase()==="template"&&(i._x_forwardEvents||(i._x_forwardEvents=[]),i._x_forwardEvents.includes(t)||i._x_forwardEvents.push(t));let a=ns(i,t,e,o=>{r(()=>{},{scope:{$event:o},params:[o]})});s(()=>a())}));va("Collapse","collapse","collapse");va("Intersect","intersect","intersect");va("Focus","trap","focus");va("Mask","mask","mask");function va(i,t,e){pe(t,n=>bi(`You can't use [x-${t}] without first installing the "${i}" plugin here: https://alpinejs.dev/plugins/${e}`,n))}pe("html",(i,{expression:t})=>{pa(new Error("Using the x-html directive is prohibited in the CSP build"),i)});ls.setEvaluator(k_);ls.setRawEvaluator(F_);ls.setReactivityEngine({reactive:Hc,effect:(i,t={})=>{let e;return e=Z_(i,{scheduler:()=>{e&&(t.scheduler?t.scheduler(e):e())}}),e},release:K_,raw:te});var B0=ls,cr=B0;async function hr(i){let e=(i.headers.get("content-type")||"").includes("json")?await i.json():await i.text();if(!i.ok)throw new Error(e.error||`The server answered ${i.status}.`);return e}var de=async i=>hr(await fetch(i)),$t=async(i,t)=>hr(await fetch(i,{method:"POST",headers:{"content-type":"application/json"},body:JSON.stringify(t??{})})),ff=async i=>{let t=new FormData;for(let e of i)t.append("files",e,e.name);return hr(await fetch("/api/uploads",{method:"POST",body:t}))},pf=async i=>hr(await fetch(i,{method:"DELETE"})),Sa=async(i,t)=>hr(await fetch(i,{method:"POST",headers:{"content-type":"application/json"},body:t}));var z0=i=>`${i.name}, ${i.width_mm}\xD7${i.height_mm} mm`,mf={bodies:[],bodyName:"",bodySaid:"",async loadBodies(){try{this.listBodies(await de("/api/bodies"))}catch(i){this.error=i.message}},listBodies({kept:i,formats:t}){this.bodies=[...i,...t].map((e,n)=>({...e,key:String(n),text:z0(e)}))},takeBody(i){let t=this.bodies.find(n=>n.key===i.target.value);if(i.target.value="",!t)return;this.bodySaid=`${t.name}: the largest part of it with the picture's proportions.`;let e={width_mm:t.width_mm,height_mm:t.height_mm};return this.act(()=>$t(`/api/shots/${this.id}/body`,e))},async keepBody(){let{width_mm:i,height_mm:t}=this.s.state.film_back,e=this.bodyName.trim();this.error="";try{this.listBodies(await $t("/api/bodies",{name:e,width_mm:i,height_mm:t})),this.bodySaid=`${e} is kept for other shots.`,this.bodyName=""}catch(n){this.error=n.message}}};var Ma=Promise.resolve(),Vc=0,ba={...mf,act(i){return Vc+=1,Ma=Ma.then(async()=>{this.error="";try{let t=await i();return await this.follow(t?.stations?t:await de(`/api/shots/${this.id}`)),!0}catch(t){return this.error=t.message,this.refused?.(),!1}}),Ma},async refresh(){await Ma;let i=Vc,t=await de(`/api/shots/${this.id}`);i===Vc&&await this.follow(t)},edit(i,t){return this.act(()=>$t(`/api/shots/${this.id}/edits`,{label:i,patch:t}))},begin(i){return this.act(()=>$t(`/api/shots/${this.id}/jobs`,{kind:i}))},async mend(i){let{label:t,edit:e,work:n}=i.remedy;await this.edit(t.toLowerCase(),e)&&n&&await this.begin(n)},undo(){return this.act(()=>$t(`/api/shots/${this.id}/undo`))},redo(){return this.act(()=>$t(`/api/shots/${this.id}/redo`))},setFilmBack(i){let[t,e]=i.target.value.replace(/mm.*/,"").split(/[x×]/).map(Number);return this.edit("state the film back",{film_back:{width_mm:t,height_mm:e}})},setFocal(i){let t=i.target.value.trim();return this.edit("state the focal length",{focal:t===""||t==="unknown"?"unknown":/^zoom/i.test(t)?"zooms":{mm:Number.parseFloat(t)}})},setReceiver(i,t){return this.edit("state the receiver's axes",{receiver:{[i]:t}})},packageLink(){return this.s.state.delivery?`/api/shots/${this.id}/deliveries/${this.s.state.delivery}`:"#"},go(i){this.station=i,location.hash=i,this.redraw()},swapTheme(){let i=document.documentElement.dataset.theme==="dusk"?"daybook":"dusk";document.documentElement.dataset.theme=i,localStorage.setItem("theme",i),this.redraw()}};var Gc=[[0,34,78],[53,69,108],[102,105,112],[148,142,119],[200,184,102],[254,232,56]];function H0(i){let t=Math.min(.9999,Math.max(0,i))*(Gc.length-1),e=Math.floor(t);return Gc[e].map((n,s)=>Math.round(n+(Gc[e+1][s]-n)*(t-e)))}var gf=.42,V0=1,ur=i=>H0(gf+(1-gf)*i/V0).map(t=>Math.min(255,t+40)),cs=i=>i==null?"#9fd6ca":`rgb(${ur(i).join(",")})`,Nt=i=>getComputedStyle(document.documentElement).getPropertyValue(i).trim();function he(i,t,e,n){n(),i.lineWidth=t+2,i.strokeStyle="rgba(0,0,0,.55)",i.stroke(),n(),i.lineWidth=t,i.strokeStyle=e,i.stroke()}function an(i,t,e){i.beginPath();for(let n of e)for(let s=0;s<n.length;s+=2){let[r,a]=t.plateToScreen(n[s],n[s+1]);s===0?i.moveTo(r,a):i.lineTo(r,a)}}function dr(i,t,e){e?.length&&(an(i,t,e),i.lineWidth=1,i.strokeStyle="rgba(190,235,222,.6)",i.stroke())}function _f(i,t,e){e?.length&&he(i,1.5,Nt("--chosen"),()=>an(i,t,e))}function xf(i,t,e,n){if(e)for(let s=0;s<e.length;s+=3){let r=n.has(e[s]),[a,o]=t.plateToScreen(e[s+1],e[s+2]);if(a<0||o<0||a>t.size[0]||o>t.size[1])continue;let l=r?5:2.5;he(i,r?2:1.2,r?Nt("--chosen"):"#bfe8dc",()=>{i.beginPath(),i.moveTo(a-l,o),i.lineTo(a+l,o),i.moveTo(a,o-l),i.lineTo(a,o+l)})}}function yf(i,t,e){i.setLineDash([4,3]),he(i,1,Nt("--chosen"),()=>{i.beginPath(),i.rect(t[0],t[1],e[0]-t[0],e[1]-t[1])}),i.setLineDash([])}function vf(i,t){let[e,n]=t.source,s=[[0,0],[e,0],[e,n],[0,n],[0,0]],r=s.slice(1).flatMap(([a,o],l)=>{let[c,h]=s[l];return Array.from({length:24},(d,u)=>[c+(a-c)*u/23,h+(o-h)*u/23]).flat()});i.setLineDash([6,4]),he(i,1,"#ece8de",()=>an(i,t,[r])),i.setLineDash([])}var Sf={x:[],y:[9,4],z:[2,4]},W0={x:"--axis-x",y:"--axis-y",z:"--axis-z"},Gn=i=>Nt(W0[i]);function us(i,t,e,n){i.beginPath(),i.moveTo(...t.plateToScreen(...e)),i.lineTo(...t.plateToScreen(...n))}function Wc(i,t,e,n,s){i.beginPath(),i.arc(t,e,8,0,2*Math.PI),i.fillStyle="rgba(20,20,20,.8)",i.fill(),i.fillStyle=s,i.font="700 11px Atkinson, sans-serif",i.textAlign="center",i.textBaseline="middle",i.fillText(n.toUpperCase(),t,e+.5)}function hs(i,t,e,n,s){let[r,a]=t.plateToScreen(...e);he(i,s?2.2:1.4,n,()=>{i.beginPath(),i.arc(r,a,s?6:4.5,0,2*Math.PI)})}function X0(i,t,e,n){let[s,r,a]=n,o=6*t.plate[0],l=d=>{let u=[s-a*d[0],r-a*d[1]],m=Math.hypot(...u)||1,g=Math.abs(a)*o>m?m/Math.abs(a):o,_=a<0?-1:1;return[d[0]+_*u[0]*g/m,d[1]+_*u[1]*g/m]},c=d=>Math.hypot(s-a*d[0],r-a*d[1]),h=c(e.a)<c(e.b)?e.a:e.b;us(i,t,h,l(h)),i.globalAlpha=.3,i.lineWidth=1,i.strokeStyle=Gn(e.axis),i.stroke(),i.globalAlpha=1}function Mf(i,t,{list:e,chosen:n,vanishing:s,miss:r,worst:a,withEnds:o}){let l=Object.fromEntries((s??[]).map(c=>[c.axis,c.homogeneous]));if(o)for(let c of e)l[c.axis]&&X0(i,t,c,l[c.axis]);e.forEach((c,h)=>{let d=h===n.index,u=d?Nt("--chosen"):Gn(c.axis);if(i.setLineDash(Sf[c.axis]),he(i,d?2.2:1.5,u,()=>us(i,t,c.a,c.b)),i.setLineDash([]),!o)return;hs(i,t,c.a,u,d&&n.end==="a"),hs(i,t,c.b,u,d&&n.end==="b");let[m,g]=t.plateToScreen((c.a[0]+c.b[0])/2,(c.a[1]+c.b[1])/2);if(Wc(i,m,g,c.axis,u),Number.isFinite(r?.[h])&&(d||h===a)){i.font="12px 'Plex Mono', monospace",i.textAlign="left",i.lineWidth=3,i.strokeStyle="rgba(0,0,0,.7)";let _=`${Math.abs(r[h]).toFixed(2)} px`;i.strokeText(_,m+13,g),i.fillStyle=cs(Math.abs(r[h])),i.fillText(_,m+13,g)}})}function bf(i,t,e){for(let n of e){i.globalAlpha=.75,i.setLineDash([3,3]),he(i,1.2,Gn(n.axis),()=>us(i,t,n.a,n.b)),i.setLineDash([]);let[s,r]=t.plateToScreen((n.a[0]+n.b[0])/2,(n.a[1]+n.b[1])/2);Wc(i,s,r,n.axis,Gn(n.axis)),i.globalAlpha=1}}function Xc(i,t,e){if(!e)return;let[n,s,r]=e,[a,o]=t.plate,l=Math.abs(s)>Math.abs(n)?[[-a,(n*a-r)/s],[2*a,(-2*n*a-r)/s]]:[[(s*o-r)/n,-o],[(-2*s*o-r)/n,2*o]];i.setLineDash([14,5,2,5]),he(i,1,Nt("--active"),()=>us(i,t,...l)),i.setLineDash([])}function wf(i,t,e){for(let{axis:n,to:s}of e.axes)i.setLineDash(Sf[n]),he(i,2,Gn(n),()=>us(i,t,e.origin,s)),i.setLineDash([]),Wc(i,...t.plateToScreen(...s),n,Gn(n));hs(i,t,e.origin,Nt("--chalk"),!0)}function qc(i,t,e,n,s){he(i,2,n,()=>us(i,t,e.from,e.to)),hs(i,t,e.from,n,!1),hs(i,t,e.to,n,!1);let[r,a]=t.plateToScreen((e.from[0]+e.to[0])/2,(e.from[1]+e.to[1])/2);i.font="12px 'Plex Mono', monospace",i.textAlign="left",i.lineWidth=3,i.strokeStyle="rgba(0,0,0,.7)",i.strokeText(s,r+10,a),i.fillStyle=n,i.fillText(s,r+10,a)}function Ef(i,t,e){he(i,1.5,Nt("--chosen"),()=>an(i,t,e.lines));for(let n of e.handles)hs(i,t,n.px,Gn(n.axis),!0)}var $0=["plate","rails","orient","proof","deliver"],Y0=7;function Tf(i,t,e){let n=[e[0]-t[0],e[1]-t[1]],s=Math.min(1,Math.max(0,((i[0]-t[0])*n[0]+(i[1]-t[1])*n[1])/(n[0]**2+n[1]**2||1)));return Math.hypot(i[0]-t[0]-s*n[0],i[1]-t[1]-s*n[1])}var Af={redraw(){this.view?.draw()},fit(){this.view.viewport.fit(),this.redraw()},oneToOne(){this.view.viewport.oneToOne(),this.redraw()},paint(i){let{ctx:t,viewport:e}=i,{photo:n,answer:s,offers:r}=this.now;t.fillStyle=`rgba(0,0,0,${Number(this.dim)/100})`,t.fillRect(...i.frame());let a=this.station,o=s?.placed;a==="rails"&&(Xc(t,e,s?.horizon),bf(t,e,r),Mf(t,e,{list:n.rails,chosen:{index:this.chosen,end:this.chosenEnd},vanishing:s?.vanishing,miss:s?.miss_px,worst:s?.worst,withEnds:!0})),o&&a!=="plate"&&a!=="rails"&&(i.inside(()=>dr(t,e,o.grid)),Xc(t,e,s.horizon),wf(t,e,o),a==="orient"&&n.known&&qc(t,e,n.known,Nt("--chosen"),`${n.known.metres} m`),a!=="orient"&&o.box?.lines&&Ef(t,e,o.box),a==="proof"&&n.measure&&qc(t,e,n.measure,Nt("--active"),o.measured?.error?"\u2013":`${(o.measured?.length??0).toFixed(3)} ${o.scaled?"m":"units"}`))},grips(){let{photo:i,answer:t}=this.now,e=t?.placed,n=(s,r)=>r?[{what:s,end:"from",px:r.from},{what:s,end:"to",px:r.to}]:[];switch(this.station){case"rails":return i.rails.flatMap((s,r)=>[{what:"rail",index:r,end:"a",px:s.a},{what:"rail",index:r,end:"b",px:s.b}]);case"orient":return[...n("known",i.known),...e?[{what:"origin",px:i.origin??e.origin}]:[]];case"proof":{let s=i.corner_box&&e?[{what:"corner",px:i.corner_box.at??e.origin}]:[];return[...n("measure",i.measure),...(e?.box?.handles??[]).map(r=>({what:"pull",axis:r.axis,px:r.px})),...s]}default:return[]}},host(){let i=(n,s,r)=>{let a=n==="known"?this.lengthAxis:this.measureAxis;return{axis:a==="ground"?null:a,from:s,to:r,metres:n==="known"&&Number.parseFloat(this.metres)||1}},t=()=>({orient:"known",proof:"measure"})[this.station],e={rail:()=>this.change("move a rail",{rails:this.now.photo.rails}),known:()=>this.change("state a length",{known:this.now.photo.known}),measure:()=>this.change("measure",{measure:this.now.photo.measure}),origin:()=>this.change("set the origin",{origin:this.now.photo.origin}),corner:()=>this.change("move the box",{corner_box:this.now.photo.corner_box}),pull:()=>this.change("pull the box",{corner_box:{...this.now.photo.corner_box,size:this.now.answer?.placed?.box?.size??this.now.photo.corner_box.size}})};return{paint:n=>this.paint(n),grips:()=>this.grips(),loupe:n=>this.loupeShown=n,grabbed:n=>{n.what==="rail"&&this.choose(n.index,n.end)},dragged:(n,s)=>{let{photo:r}=this.now;n.what==="rail"?r.rails[n.index][n.end]=s:n.what==="origin"?r.origin=s:n.what==="corner"?r.corner_box.at=s:n.what!=="pull"&&(r[n.what][n.end]=s),this.ask(n.what==="pull"?{axis:n.axis,to:s}:null)},dropped:async n=>{for(;this.now.asking;)await new Promise(s=>setTimeout(s,5));await e[n.what]()},laying:(n,s)=>{let{photo:r}=this.now;if(this.station==="rails"){let a=this.s.state.photo.rails.length;r.rails[a]={axis:this.axis,a:n,b:s},this.choose(a,"b")}else if(t())r[t()]=i(t(),n,s);else return;this.ask()},laid:()=>{if(this.station==="rails")return this.change(`lay a rail along ${this.axis.toUpperCase()}`,{rails:this.now.photo.rails});if(t())return e[t()]()},abandoned:()=>this.follow(this.s),clicked:n=>this.clicked(n)}},choose(i,t){this.chosen!==i&&(this.settledText=""),this.chosen=i,this.chosenEnd=t},clicked(i){if(this.station!=="rails")return;let t=Y0/this.view.viewport.scale,e=this.now.offers.find(n=>Tf(i,n.a,n.b)<t);if(e){this.offer(this.now.offers.filter(n=>n!==e)),this.change("take a rail",{rails:[...this.s.state.photo.rails,e]});return}this.choose(this.now.photo.rails.findIndex(n=>Tf(i,n.a,n.b)<t),""),this.redraw()},nudge(i){let t=this.now.photo.rails[this.chosen];if(this.station!=="rails"||!t)return!1;let e=i.shiftKey?1:.1,n={ArrowLeft:[-e,0],ArrowRight:[e,0],ArrowUp:[0,-e],ArrowDown:[0,e]}[i.key],s=r=>[r[0]+n[0],r[1]+n[1]];for(let r of this.chosenEnd?[this.chosenEnd]:["a","b"])t[r]=s(t[r]);return this.nudged=!0,this.ask(),!0},keepNudge(){if(this.nudged)return this.nudged=!1,this.change("nudge a rail",{rails:this.now.photo.rails})},key(i){if(i.target.matches("input, select, textarea"))return;let t=i.ctrlKey||i.metaKey,e={Delete:()=>this.chosen>=0&&this.removeChosen(),"?":()=>this.help=!this.help,Escape:()=>(this.help=!1,this.error="",this.offer([]),this.choose(-1,""),this.redraw()),0:()=>this.fit(),9:()=>this.oneToOne(),s:()=>this.settle(),X:()=>this.moveChosen("x"),Y:()=>this.moveChosen("y"),Z:()=>this.moveChosen("z"),x:()=>this.chooseAxis("x"),y:()=>this.chooseAxis("y"),z:()=>this.chooseAxis("z")};for(let s of["ArrowLeft","ArrowRight","ArrowUp","ArrowDown"])e[s]=()=>this.nudge(i);$0.forEach((s,r)=>e[String(r+1)]=()=>this.go(s));let n=t?{z:()=>i.shiftKey?this.redo():this.undo(),y:()=>this.redo()}[i.key.toLowerCase()]:e[i.key];n&&(i.preventDefault(),n())}};function Rf(i,t){let{columns:e,rows:n,places:s}=i;return(r,a)=>{let o=r/t[0]*e,l=a/t[1]*n,c=Math.min(e-1,Math.max(0,Math.floor(o))),h=Math.min(n-1,Math.max(0,Math.floor(l))),[d,u]=[o-c,l-h],m=2*(h*(e+1)+c),g=m+2*(e+1);return[0,1].map(_=>(1-u)*((1-d)*s[m+_]+d*s[m+2+_])+u*((1-d)*s[g+_]+d*s[g+2+_]))}}var wa=class{constructor({size:t,undistorting:e,distorting:n},s){Object.assign(this,{size:t,mesh:e,plate:s}),this.toStraight=Rf(n,s),this.toPlate=Rf(e,t)}},Wn=.8;function Cf(i,t,e,n){if(e>=Wn)return t;i.width=Math.ceil(t.width*e/Wn),i.height=Math.ceil(t.height*e/Wn);let s=i.getContext("2d",{alpha:!1,willReadFrequently:!0});return s.imageSmoothingQuality=n?"low":"medium",s.drawImage(t,0,0,i.width,i.height),i}var Z0=`#version 300 es
in vec2 place; in vec2 source; uniform vec4 map; out vec2 from;
void main() { from = source; gl_Position = vec4(place * map.xy + map.zw, 0.0, 1.0); }`,K0=`#version 300 es
precision highp float; in vec2 from; uniform sampler2D plate; out vec4 colour;
void main() { bool inside = all(greaterThanEqual(from, vec2(0.0))) && all(lessThanEqual(from, vec2(1.0))); colour = inside ? vec4(texture(plate, from).rgb, 1.0) : vec4(0.0); }`,J0=/swiftshader|llvmpipe|softpipe|software|basic render/i;function j0(i){let t=i.getExtension("WEBGL_debug_renderer_info");return String(i.getParameter(t?t.UNMASKED_RENDERER_WEBGL:i.RENDERER))}var Ea=class i{static on(t){let e=t.getContext("webgl2",{alpha:!0,premultipliedAlpha:!0,antialias:!1});return e?new i(t,e):null}constructor(t,e){Object.assign(this,{surface:t,gl:e,byProcessor:J0.test(j0(e))}),this.program=e.createProgram();for(let[n,s]of[[e.VERTEX_SHADER,Z0],[e.FRAGMENT_SHADER,K0]]){let r=e.createShader(n);e.shaderSource(r,s),e.compileShader(r),e.attachShader(this.program,r)}e.linkProgram(this.program),this.map=e.getUniformLocation(this.program,"map"),this.buffers={place:e.createBuffer(),source:e.createBuffer(),index:e.createBuffer()},e.bindTexture(e.TEXTURE_2D,e.createTexture());for(let n of[e.TEXTURE_WRAP_S,e.TEXTURE_WRAP_T])e.texParameteri(e.TEXTURE_2D,n,e.CLAMP_TO_EDGE);e.texParameteri(e.TEXTURE_2D,e.TEXTURE_MIN_FILTER,e.LINEAR),this.smaller=document.createElement("canvas")}bend(t){if(this.of===t)return;this.of=t;let{gl:e,buffers:n}=this,{columns:s,rows:r,places:a}=t.mesh,[o,l,c]=[[],[],[]];for(let h=0;h<=r;h++)for(let d=0;d<=s;d++){let u=h*(s+1)+d;o.push(d/s*t.size[0],h/r*t.size[1]),l.push(a[2*u]/t.plate[0],a[2*u+1]/t.plate[1]),d<s&&h<r&&c.push(u,u+1,u+s+1,u+1,u+s+2,u+s+1)}for(let[h,d]of[["place",o],["source",l]]){let u=e.getAttribLocation(this.program,h);e.bindBuffer(e.ARRAY_BUFFER,n[h]),e.bufferData(e.ARRAY_BUFFER,new Float32Array(d),e.STATIC_DRAW),e.enableVertexAttribArray(u),e.vertexAttribPointer(u,2,e.FLOAT,!1,0,0)}e.bindBuffer(e.ELEMENT_ARRAY_BUFFER,n.index),e.bufferData(e.ELEMENT_ARRAY_BUFFER,new Uint32Array(c),e.STATIC_DRAW),this.count=c.length}draw(t,e,[n,s],r,a,o){let{gl:l,surface:c}=this;c.width!==n&&(c.width=n),c.height!==s&&(c.height=s),l.useProgram(this.program),this.bend(e);let h=Math.min(r,Wn);(this.picture!==t||this.shown!==h||this.plays!==o)&&(l.texImage2D(l.TEXTURE_2D,0,l.RGBA,l.RGBA,l.UNSIGNED_BYTE,Cf(this.smaller,t,r,o)),Object.assign(this,{picture:t,shown:h,plays:o})),l.texParameteri(l.TEXTURE_2D,l.TEXTURE_MAG_FILTER,r<2?l.LINEAR:l.NEAREST),l.viewport(0,0,n,s),l.clearColor(0,0,0,0),l.clear(l.COLOR_BUFFER_BIT),l.uniform4f(this.map,2*r/n,-2*r/s,2*a[0]/n-1,1-2*a[1]/s),l.drawElements(l.TRIANGLES,this.count,l.UNSIGNED_INT,0)}};var Ta=32,Ei=8,Q0=2,$c=(i,t,e)=>{let n=Math.imul(i&16711935,Ta-e)+Math.imul(t&16711935,e)+1048592>>>5,s=Math.imul(i>>>8&16711935,Ta-e)+Math.imul(t>>>8&16711935,e)+1048592>>>5;return n&16711935|(s&16711935)<<8};function Pf(i,t,e,n,s){for(let r=0,a=0;r<s;r++){let o=Math.floor(r/Ei)*t,l=r%Ei/Ei,c=i[o]+l*(i[o+t]-i[o]);for(let h=o+1,d=0;d<n;d+=Ei,h++){let u=i[h]+l*(i[h+t]-i[h]),m=(u-c)/Ei,g=Math.min(Ei,n-d);for(let _=0;_<g;_++)e[a++]=c+_*m;c=u}}}var Aa=class{constructor(t){this.surface=t,this.ctx=t.getContext("2d"),this.smaller=document.createElement("canvas"),this.reader=this.smaller.getContext("2d",{alpha:!1,willReadFrequently:!0})}draw(t,e,[n,s],r,a,o){let{surface:l,ctx:c}=this,h=Math.min(t.width/e.plate[0],r/Wn),d=[n,s,r,...a,h].join();(this.of!==e||this.wanted!==d)&&(this.table(e,[n,s],r,a,h),Object.assign(this,{of:e,wanted:d}),l.width!==n&&(l.width=n),l.height!==s&&(l.height=s),c.clearRect(0,0,n,s)),this.gather(this.read(t,o)),c.putImageData(this.shown,...this.corner)}read(t,e){let{smaller:n,reader:s,box:r}=this;return n.width!==r.width&&(n.width=r.width),n.height!==r.height&&(n.height=r.height),s.imageSmoothingQuality=e?"low":"medium",s.drawImage(t,-r.left,-r.top,...r.whole),s.getImageData(0,0,r.width,r.height)}table(t,[e,n],s,r,a){let[o,l]=r.map(p=>Math.max(0,Math.floor(p))),c=Math.max(1,Math.min(e,Math.ceil(r[0]+t.size[0]*s))-o),h=Math.max(1,Math.min(n,Math.ceil(r[1]+t.size[1]*s))-l);this.corner=[o,l],this.shown=new ImageData(c,h);let d=t.plate.map(p=>Math.max(2,Math.round(p*a))),u=Math.ceil(c/Ei)+1,m=Math.ceil(h/Ei)+1,[g,_]=[0,1].map(()=>new Float32Array(c*h)),f=[0,1].map(()=>new Float32Array(u*m));for(let p=0;p<u*m;p++){let[S,T]=[Ei*(p%u),Ei*Math.floor(p/u)],w=t.toPlate((o+S+.5-r[0])/s,(l+T+.5-r[1])/s);f[0][p]=w[0]*d[0]/t.plate[0],f[1][p]=w[1]*d[1]/t.plate[1]}Pf(f[0],u,g,c,h),Pf(f[1],u,_,c,h),this.enter(g,_,d,s>=Q0)}enter(t,e,[n,s],r){let{from:a,parts:o,box:l}=this.room(t,e,n,s);for(let c=0;c<t.length;c++){if(t[c]<0)continue;let h=t[c]-l.left,d=e[c]-l.top,u=r?Math.round(h):Math.floor(h),m=r?Math.round(d):Math.floor(d);a[c]=m*l.width+u,r||(o[c]=Math.round((h-u)*Ta)<<8|Math.round((d-m)*Ta))}}room(t,e,n,s){let r=n,a=s,o=0,l=0;for(let h=0;h<t.length;h++){let d=t[h]>=0&&e[h]>=0&&t[h]<=n&&e[h]<=s,u=Math.min(n-1.001,Math.max(0,t[h]-.5)),m=Math.min(s-1.001,Math.max(0,e[h]-.5));t[h]=d?u:-1,e[h]=m,d&&(u<r&&(r=u),u>o&&(o=u),m<a&&(a=m),m>l&&(l=m))}r=Math.floor(Math.min(r,n-2)),a=Math.floor(Math.min(a,s-2));let c={width:Math.max(2,Math.floor(o)+2-r),height:Math.max(2,Math.floor(l)+2-a)};return this.box={left:r,top:a,...c,whole:[n,s]},this.from=new Int32Array(t.length).fill(-1),this.parts=new Uint16Array(t.length),this}gather(t){let e=new Uint32Array(t.data.buffer),n=new Uint32Array(this.shown.data.buffer),{from:s,parts:r}=this,a=t.width;for(let o=0;o<n.length;o++){let l=s[o];if(l<0)continue;let c=r[o]>>>8;n[o]=$c($c(e[l],e[l+1],c),$c(e[l+a],e[l+a+1],c),r[o]&255)}}};var Ra=class{constructor(t){this.over=t,this.surfaces=[],this.flat=this.beneath(),this.ctx=this.flat.getContext("2d")}beneath(){let t=document.createElement("canvas");return t.setAttribute("aria-hidden","true"),this.over.before(t),this.surfaces.push(t),t}show(t,e,n,s){let{over:r}=this,a=e.scale*n,o=e.offset.map(h=>h*n),l=[r.width,r.height,a,...o,!!(s&&e.bend)].join();if(this.picture===t&&this.wanted===l&&this.of===e.bend)return;Object.assign(this,{picture:t,wanted:l,of:e.bend});let c=t&&e.bend?this.bending(s):null;for(let h of this.surfaces)h.hidden=h!==(c?.surface??this.flat);c?c.draw(t,e.bend,[r.width,r.height],a,o,s):this.draw(t,a,o,e.plate)}bending(t){return this.drawn===void 0&&(this.drawn=Ea.on(this.beneath())),this.drawn&&!(t&&this.drawn.byProcessor)?this.drawn:(this.gathered??=new Aa(this.beneath()),this.gathered)}draw(t,e,n,s){let{flat:r,ctx:a,over:o}=this;r.width!==o.width&&(r.width=o.width),r.height!==o.height&&(r.height=o.height),a.clearRect(0,0,r.width,r.height),t&&(a.imageSmoothingEnabled=e<2,a.imageSmoothingQuality="high",a.drawImage(t,...n,s[0]*e,s[1]*e))}};var Ca=class{constructor(t,e){this.source=[t,e],this.plate=[t,e],this.size=[1,1],this.scale=1,this.offset=[0,0],this.fitted=!0,this.bend=null}through(t){this.bend=t;let[e,n]=t?.size??this.source;e===this.plate[0]&&n===this.plate[1]||(this.plate=[e,n],this.fitted&&this.fit())}resize(t,e){this.size=[t,e],this.fitted&&this.fit()}fit(){this.scale=Math.min(this.size[0]/this.plate[0],this.size[1]/this.plate[1]),this.offset=[0,1].map(t=>(this.size[t]-this.plate[t]*this.scale)/2),this.fitted=!0}oneToOne(){this.zoom(1/this.scale,this.size[0]/2,this.size[1]/2)}zoom(t,e,n){let s=Math.min(40,Math.max(.05,this.scale*t)),r=s/this.scale;this.offset=[e-(e-this.offset[0])*r,n-(n-this.offset[1])*r],this.scale=s,this.fitted=!1}pan(t,e){this.offset=[this.offset[0]+t,this.offset[1]+e],this.fitted=!1}hold(t){let[e,n]=this.plateToScreen(...t.px);t.at??=[e,n],t.scale!==void 0&&t.scale!==this.scale&&(t.at=[e,n]),t.scale=this.scale,this.pan(t.at[0]-e,t.at[1]-n)}shownToScreen(t,e){return[t*this.scale+this.offset[0],e*this.scale+this.offset[1]]}plateToScreen(t,e){return this.bend?this.shownToScreen(...this.bend.toStraight(t,e)):this.shownToScreen(t,e)}screenToPlate(t,e){let n=[(t-this.offset[0])/this.scale,(e-this.offset[1])/this.scale];return this.bend?this.bend.toPlate(...n):n}};var ds=class{constructor(t,e,n){this.canvas=t,this.viewport=new Ca(e,n),this.ctx=t.getContext("2d"),this.layer=new Ra(t),t.addEventListener("wheel",s=>this.wheel(s),{passive:!1}),t.addEventListener("contextmenu",s=>s.preventDefault())}observe(){new ResizeObserver(()=>this.resize()).observe(this.canvas.parentElement)}resize(){let{clientWidth:t,clientHeight:e}=this.canvas.parentElement,n=window.devicePixelRatio||1;this.canvas.width=Math.max(1,Math.round(t*n)),this.canvas.height=Math.max(1,Math.round(e*n)),this.ratio=n,this.viewport.resize(t,e),this.draw()}frame(){let{viewport:t}=this;return[...t.shownToScreen(0,0),t.plate[0]*t.scale,t.plate[1]*t.scale]}begin(t,e=!1){let{ctx:n,viewport:s}=this,r=this.ratio||1;n.setTransform(r,0,0,r,0,0),n.clearRect(0,0,...s.size),this.layer.show(t??null,s,r,e)}inside(t){this.ctx.save(),this.ctx.beginPath(),this.ctx.rect(...this.frame()),this.ctx.clip(),t(),this.ctx.restore()}at(t){let e=this.canvas.getBoundingClientRect();return[t.clientX-e.left,t.clientY-e.top]}wheel(t){t.preventDefault(),this.viewport.zoom(Math.exp(-t.deltaY*.0015),...this.at(t)),this.draw()}};function fs(i,t,e,n){if(!t)return;let s=i.getContext("2d"),r=i.width,a=t.width/e.source[0],o=r/2/8;s.imageSmoothingEnabled=!1,s.fillStyle="#333",s.fillRect(0,0,r,r),s.drawImage(t,(n[0]-o)*a,(n[1]-o)*a,2*o*a,2*o*a,0,0,r,r);let l=r/2;for(let[_,f]of[[3,"rgba(0,0,0,.6)"],[1,"#ece8de"]]){s.lineWidth=_,s.strokeStyle=f,s.beginPath();for(let[p,S]of[[1,0],[-1,0],[0,1],[0,-1]])s.moveTo(l+7*p,l+7*S),s.lineTo(l+26*p,l+26*S);s.stroke()}let[c,h]=e.plateToScreen(...n),[d,u]=e.size,m=c+28+r>d?c-28-r:c+28,g=Math.min(Math.max(8,h-r-12),u-r-8);i.style.transform=`translate(${Math.round(m)}px, ${Math.round(g)}px)`}var tx=11,ex=6,Yc=(i,t)=>Math.hypot(i[0]-t[0],i[1]-t[1]),Pa=class extends ds{constructor(t,e,n,s,r){super(t,n,s),Object.assign(this,{loupe:e,host:r,drag:null}),t.addEventListener("pointerdown",a=>this.down(a)),t.addEventListener("pointermove",a=>this.move(a)),t.addEventListener("pointerup",()=>this.up()),t.addEventListener("pointercancel",()=>this.cancel()),this.observe()}draw(){this.begin(this.picture),this.host.paint(this),this.drag?.at&&this.drag.kind!=="pan"&&fs(this.loupe,this.picture,this.viewport,this.drag.at)}down(t){this.canvas.focus(),this.canvas.setPointerCapture(t.pointerId);let e=this.at(t);if(t.button!==0){this.drag={kind:"pan",screen:e};return}let n=t.shiftKey?null:this.nearest(e),s=this.viewport.screenToPlate(...e),r=n?.px??s;this.drag={kind:n?"grip":"lay",grip:n,from:s,at:[...r],screen:e,begun:e,moved:!1},n&&this.host.grabbed(n)}move(t){let{drag:e}=this;if(!e)return;let n=this.at(t),s=[n[0]-e.screen[0],n[1]-e.screen[1]];if(e.screen=n,e.kind==="pan"){this.viewport.pan(...s),this.draw();return}let r=(t.altKey?.1:1)/this.viewport.scale;e.at=[e.at[0]+s[0]*r,e.at[1]+s[1]*r],!(!e.moved&&Yc(n,e.begun)<3)&&(e.moved=!0,e.kind==="grip"?this.host.dragged(e.grip,e.at):this.host.laying(e.from,e.at),this.host.loupe(!0),this.draw())}up(){let{drag:t}=this;this.drag=null,this.host.loupe(!1),!(!t||t.kind==="pan")&&(t.kind==="grip"?t.moved&&this.host.dropped(t.grip):t.moved&&Yc(t.screen,t.begun)>=ex?this.host.laid():this.host.clicked(t.from),this.draw())}cancel(){this.drag&&this.host.abandoned(),this.drag=null,this.host.loupe(!1)}nearest(t){let e=[tx,null];for(let n of this.host.grips()){let s=Yc(this.viewport.plateToScreen(...n.px),t);s<e[0]&&(e=[s,n])}return e[1]}};var Re=i=>Object.defineProperty(i,"__v_skip",{value:!0});var ix=["plate","rails","orient","proof","deliver"],nx={plate:"Photograph",rails:"Drag along an edge to lay a rail \xB7 Shift lays from an end that is taken \xB7 Alt is ten times finer",orient:"Drag the origin to the ground; drag along a known length",proof:"Pull the box; drag to measure",deliver:"Photograph"},Lf=()=>({ready:!1,s:null,station:"rails",error:"",help:!1,dim:20,axis:"x",axes:["x","y","z"],lengthAxes:[{key:"y",name:"Y"},{key:"x",name:"X"},{key:"z",name:"Z"},{key:"ground",name:"ground"}],grids:[{key:"off",name:"none"},{key:"ground",name:"ground"},{key:"xy",name:"XY"},{key:"yz",name:"YZ"}],lengthAxis:"y",measureAxis:"y",metres:"2.04",chosen:-1,chosenEnd:"",settledText:"",suggesting:!1,offered:0,copied:"",loupeShown:!1,live:null,...ba,...Af,async init(){this.id=Number(this.$root.dataset.shot),this.now=Re({photo:null,answer:null,offers:[],asking:!1,waiting:null}),await this.follow(await de(`/api/shots/${this.id}`));let i=location.hash.slice(1);this.station=ix.includes(i)?i:this.s.state.photo.rails.length?"rails":"plate",this.s.state.photo.known&&(this.metres=String(this.s.state.photo.known.metres)),this.ready=!0,await this.$nextTick(),this.view=Re(new Pa(this.$refs.plate,this.$refs.loupe,this.s.width,this.s.height,this.host())),window.addEventListener("keydown",t=>this.key(t)),window.addEventListener("keyup",()=>this.keepNudge()),window.addEventListener("blur",()=>this.keepNudge()),await this.show()},follow(i){this.s=i,this.now.photo=If(i.state.photo),this.now.answer=If(i.solved),this.live=i.solved,this.chosen>=this.now.photo.rails.length&&(this.chosen=-1),this.redraw(),this.busy&&!this.polling&&this.poll()},refused(){this.follow(this.s)},async show(){for(let i=0;i<200;i++){let t=await fetch(`/api/shots/${this.id}/frames/${this.s.plate.first}`);if(t.ok){this.view.picture=await createImageBitmap(await t.blob()),this.redraw();return}await new Promise(e=>setTimeout(e,150))}this.error="The photograph cannot be shown. Look at the messages of the server."},get f(){return this.live?.figures??null},get placed(){return this.live?.placed??null},get findings(){let i=[];return this.s.state.photo.rails.length?this.live?.error&&i.push({level:"bad",text:this.live.error}):i.push({level:"warn",text:"Nothing is laid yet. Drag along edges that run with two axes of the scene, two or more on each, or take what the picture suggests."}),this.live?.place_error&&i.push({level:"bad",text:this.live.place_error}),[...i,...this.live?.findings??[]]},get focalFact(){let i=this.f;return this.s.state.focal==="unknown"&&i?`${i.focal_mm.toFixed(2)} \xB1${i.focal_sigma_mm.toFixed(2)} mm`:this.s.facts.focal},get worstText(){let i=this.live?.worst??0,t=this.s.state.photo.rails[i];return t?`${i+1} of ${t.axis.toUpperCase()}, ${Math.abs(this.live.miss_px[i]??0).toFixed(2)} px`:"\u2013"},get chosenText(){let i=this.s.state.photo.rails[this.chosen],t=this.live?.miss_px?.[this.chosen];return i?`Rail ${this.chosen+1} of ${i.axis.toUpperCase()}${t===void 0?"":`, ${t.toFixed(2)} px`}`:""},get chosenAxis(){return this.s.state.photo.rails[this.chosen]?.axis??""},get unitName(){return this.placed?.scaled?"m":"units"},get measureText(){let i=this.placed?.measured;return i?i.error??`${i.length.toFixed(3)} \xB1${i.sigma.toFixed(3)} ${this.unitName}${i.off_axis_px>2?`, ${i.off_axis_px.toFixed(1)} px beside the axis`:""}`:"Drag from a foot on the ground."},get hint(){return nx[this.station]},get busy(){return this.s.jobs.some(i=>i.state==="queued"||i.state==="running")},get lastJob(){let i=this.s.jobs.find(t=>t.kind==="deliver");return i&&["failed","cancelled","done"].includes(i.state)?i:null},countOf(i){return String(this.s.state.photo.rails.filter(t=>t.axis===i).length)},axisTitle(i){return`Rails laid from now on run with ${i.toUpperCase()} (key ${i.toUpperCase()})`},change(i,t){return this.edit(i,{photo:t})},async ask(i=null){let{now:t}=this;if(t.waiting={photo:t.photo,pull:i},!t.asking){for(t.asking=!0;t.waiting;){let e=t.waiting;t.waiting=null;let n=await $t(`/api/shots/${this.id}/photo`,e).catch(s=>({error:s.message}));t.answer=n.figures?n:{...t.answer,error:n.error},this.live=t.answer,this.redraw()}t.asking=!1}},setGrid(i){return this.edit("set the grid",{grid_m:Number(i.target.value)})},setMetres(){let i=this.s.state.photo.known;if(i)return this.change("state a length",{known:{...i,metres:Number.parseFloat(this.metres)}})},chooseAxis(i){this.axis=i},moveChosen(i){if(this.chosen<0)return;let t=this.s.state.photo.rails.map((e,n)=>n===this.chosen?{...e,axis:i}:e);return this.change(`move a rail to ${i.toUpperCase()}`,{rails:t})},flip(i){return this.change(`turn ${i.toUpperCase()} round`,{flips:{[i]:!this.s.state.photo.flips[i]}})},chooseLengthAxis(i){this.lengthAxis=i;let t=this.s.state.photo.known;if(t)return this.change("state a length",{known:{...t,axis:i==="ground"?null:i}})},chooseMeasureAxis(i){this.measureAxis=i;let t=this.s.state.photo.measure;if(t)return this.change("measure",{measure:{...t,axis:i==="ground"?null:i}})},toggleBox(){let i=this.placed?.scaled?.5:(this.placed?.distance??10)*.12;return this.change("stand a box",{corner_box:this.s.state.photo.corner_box?null:{at:null,size:[i,i,i]}})},removeChosen(){let i=this.s.state.photo.rails.filter((t,e)=>e!==this.chosen);return this.chosen=-1,this.change("remove a rail",{rails:i})},async settle(){let{rails:i}=this.s.state.photo,t=this.chosen;if(i[t]){this.error="";try{let{rail:e,moved_px:n,rms_px:s}=await $t(`/api/shots/${this.id}/photo/settle`,{rail:i[t]});await this.change("settle a rail",{rails:i.map((r,a)=>a===t?e:r)}),this.settledText=`Moved by ${n.toFixed(2)} px; the edge is straight to ${s.toFixed(2)} px.`}catch(e){this.error=e.message}}},async suggest(){if(this.offered){this.offer([]);return}this.suggesting=!0;try{let{rails:i,free_centre:t,said:e}=await de(`/api/shots/${this.id}/photo/suggested`);this.error=e,this.offer(i),this.now.frees=t}catch(i){this.error=i.message}this.suggesting=!1},offer(i){this.now.offers=i,this.offered=i.length,this.redraw()},takeAll(i){let t=this.now.offers.filter(e=>!i||e.axis===i);if(this.offer(this.now.offers.filter(e=>i&&e.axis!==i)),t.length)return this.change(`take ${t.length} rails`,{rails:[...this.s.state.photo.rails,...t],...this.now.frees&&!i?{solve_centre:!0}:{}})},copyFigures(){return this.copy("all",[...this.f.rows,...this.placed?.rows??[]].map(i=>`${i.key} ${i.copy}`).join(`
`))},async copy(i,t){try{await navigator.clipboard.writeText(t),this.copied=i,setTimeout(()=>this.copied="",1500)}catch{this.error=`The browser does not let the page copy. The figure is ${t}`}},boxSide(i){return(this.placed?.box?.size?.[i]??0).toFixed(3)},setBoxSide(i,t){let e=this.s.state.photo.corner_box,n=e.size.map((s,r)=>r===i?Number.parseFloat(t.target.value):s);return this.change("size the box",{corner_box:{...e,size:n}})},async poll(){for(this.polling=!0;this.busy;)await new Promise(i=>setTimeout(i,200)),this.view?.drag||await this.refresh().catch(()=>{});this.polling=!1}}),If=i=>JSON.parse(JSON.stringify(i??null));var sx={exposure_stops:"exposure",contrast:"contrast",gamma:"gamma"},Zc={luma:[.2126,.7152,.0722],red:[1,0,0],green:[0,1,0],blue:[0,0,1]},rx=(i,t)=>i.every((e,n)=>Math.abs(e-t[n])<1e-9),Df={showAdjusted:!1,stops:"0",memory:localStorage.getItem("memory")||"420",mixes:[{key:"luma",name:"all"},{key:"red",name:"R"},{key:"green",name:"G"},{key:"blue",name:"B"}],get codingText(){let i=this.s.plate.coding;return i?`${i.is_float?"float":`${i.bits} bits`}${i.has_alpha?", with alpha":""}`:"\u2013"},get lookQuery(){if(this.showAdjusted)return`?adjust=${encodeURIComponent(JSON.stringify(this.s.state.adjust))}`;let i=Number.parseFloat(this.stops);return Number.isFinite(i)&&i!==0?`?stops=${i}`:""},lookAnew(){!this.frames||!this.frames.look(this.lookQuery)||(this.redraw(),this.frames.fill(this.first,this.last))},toggleAdjusted(){this.showAdjusted=!this.showAdjusted,this.lookAnew()},setStops(i){this.stops=i.target.value.trim()||"0",this.lookAnew()},setMemory(i){let t=Math.round(Number.parseFloat(i.target.value));this.memory=String(Math.min(8e3,Math.max(50,Number.isFinite(t)?t:420))),localStorage.setItem("memory",this.memory),this.frames.budget(Number(this.memory)*1e6),this.frames.fill(this.first,this.last)},setAdjust(i,t){return this.showAdjusted=!0,this.edit(`set ${sx[i]} for following`,{adjust:{[i]:Number(t.target.value)}})},setMix(i){return this.showAdjusted=!0,this.edit("mix the channels for following",{adjust:{mix:Zc[i]}})},isMix(i){return rx(this.s.state.adjust.mix,Zc[i])},toggleDenoise(){return this.showAdjusted=!0,this.edit("switch smoothing for following",{adjust:{denoise:!this.s.state.adjust.denoise}})},clearAdjust(){return this.edit("follow in the plate as it is",{adjust:{exposure_stops:0,contrast:1,gamma:1,mix:Zc.luma,denoise:!1}})}};function Ia(i,t,e){let n=e.at(t),s=(t.altKey?.1:1)/e.viewport.scale;return i.at=[0,1].map(r=>i.at[r]+(n[r]-i.screen[r])*s),i.screen=n,i.moved||=Math.hypot(n[0]-i.begun[0],n[1]-i.begun[1])>=3,i.moved}var Nf=10,Of=(i,t)=>Math.hypot(i[0]-t[0],i[1]-t[1]),La=class{constructor(t){Object.assign(this,{host:t,drag:null})}down(t,e){let n=e.at(t),s=e.viewport.screenToPlate(...n),r=this.edge(n,e.viewport);if(r){this.drag={edge:r,screen:n,begun:n,at:s,moved:!1};return}let a=this.near(n,e.viewport);if(a){this.host.choose(a.id),this.drag={id:a.id,screen:n,begun:n,at:[...a.px],moved:!1},e.draw();return}let o=this.host.chosen(),l=o&&!this.host.placing()&&!this.host.on(o.id);if(o&&!l&&!this.host.placing()){this.host.choose(null),e.draw();return}this.drag={id:l?o.id:null,screen:n,begun:n,at:s,moved:!0},this.show(e)}move(t,e){let{drag:n}=this;if(!(!n||!Ia(n,t,e))){if(n.edge){let{px:s}=this.host.on(n.edge.id);n.half=[0,1].map(r=>Math.abs(n.at[r]-s[r])),e.draw();return}this.show(e)}}show(t){this.host.loupe(!0),fs(t.loupe,this.host.picture(),t.viewport,this.drag.at),t.draw()}up(t,e){let{drag:n}=this;this.drag=null,this.host.loupe(!1),n?.moved&&(n.edge?this.host.shaped(n.edge,n.half):n.id===null?this.host.placed(n.at):this.host.keyed(n.id,n.at),e.draw())}ended(){}near(t,e){let n=[Nf,null];for(let s of this.host.all()){let r=Of(e.plateToScreen(...s.px),t);r<n[0]&&(n=[r,s])}return n[1]}edge(t,e){let n=this.host.chosen(),s=n&&this.host.on(n.id);if(!s)return null;for(let[r,a]of[["pattern",[n.pattern_px/2,n.pattern_px/2]],["reach",n.reach_px]]){let o=e.plateToScreen(s.px[0]+a[0],s.px[1]+a[1]);if(Of(o,t)<Nf-2)return{kind:r,id:n.id}}return null}paint(t){let{ctx:e,viewport:n}=t,s=this.host.chosen(),r=this.drag?.moved&&!this.drag.edge?this.drag.at:this.host.nudged(),a=r??(s&&this.host.on(s.id)?.px);if(r&&this.cross(e,n.plateToScreen(...r)),!a||this.drag&&this.drag.id===null)return;let o=this.drag?.edge?.kind,l={pattern:[s.pattern_px/2,s.pattern_px/2],reach:s.reach_px};o==="pattern"&&this.drag.half&&(l.pattern=[Math.max(...this.drag.half),Math.max(...this.drag.half)]),o==="reach"&&this.drag.half&&(l.reach=this.drag.half),this.box(t,a,l.pattern,[]),this.box(t,a,l.reach,[2,4])}box({ctx:t,viewport:e},n,s,r){let[a,o]=e.plateToScreen(n[0]-s[0],n[1]-s[1]),[l,c]=e.plateToScreen(n[0]+s[0],n[1]+s[1]);t.setLineDash(r),he(t,1,Nt("--chosen"),()=>{t.beginPath(),t.rect(a,o,l-a,c-o)}),t.setLineDash([]),t.fillStyle=Nt("--chosen"),t.fillRect(l-3,c-3,6,6)}cross(t,[e,n]){he(t,1.5,Nt("--chosen"),()=>{t.beginPath();for(let[s,r]of[[1,0],[-1,0],[0,1],[0,-1]])t.moveTo(e+3*s,n+3*r),t.lineTo(e+9*s,n+9*r)})}};var Kc=12,Jc=.3,fr=8,Uf=["#7fb0e0","#e58a6b","#a9c46c","#c79be0","#d8c27a","#6fd0c8"],pr=(i,t)=>Math.min(fr-1,Math.floor(fr*i/t)),ax=Array.from({length:fr},(i,t)=>`rgb(${ur((t+.5)/fr).join(",")})`),Na=i=>ax[i];function Ti(i,t){let{frames:e}=i;if(!e.length||t<e[0]||t>e[e.length-1])return-1;let n=t-e[0];if(e[n]===t)return n;let[s,r]=[0,e.length-1];for(;s<r;){let a=s+r>>1;e[a]<t?s=a+1:r=a}return e[s]===t?s:-1}var jc=(i,t)=>!i.note?.hidden&&(!i.aside||t.show.aside||t.selected.has(i.id));function kf(i){let t=[...new Set(i.map(e=>e.note?.group).filter(Boolean))].sort();return new Map(t.map((e,n)=>[e,Uf[n%Uf.length]]))}var ox=48,lx=600,Oa=class{constructor(){this.paths=new Map}of(t){let e=this.paths.get(t);e||this.paths.set(t,e=[]);let n=e[e.length-1];return n&&n.pieces<ox?(n.pieces+=1,n.path):(e.push({path:new Path2D,pieces:1}),e[e.length-1].path)}paint(t,e,n=!0){if(n){t.lineWidth=e+2,t.strokeStyle="rgba(0,0,0,.55)";for(let s of this.paths.values())for(let{path:r}of s)t.stroke(r)}t.lineWidth=e;for(let[s,r]of this.paths){t.strokeStyle=s;for(let{path:a}of r)t.stroke(a)}}},Da=new Map,Bf=(i,t)=>i||t==="hand"?22:12;function cx(i,t,e,n,s){let r=Da.get(i);r||(Da.size>100&&Da.clear(),Da.set(i,r=[]));let a=(t==="hand"?1:0)+(e?2:0)+(n?4:0);return r[a]?.ratio!==s&&(r[a]={ratio:s,picture:hx(i,t,e,n,s)}),r[a].picture}function hx(i,t,e,n,s){let r=Bf(e,t),a=new OffscreenCanvas(Math.round(r*s),Math.round(r*s)),o=a.getContext("2d");o.scale(s,s);let[l,c,h]=[r/2,e?6:3.5,new Path2D];t==="hand"?dx(h,l,l,c+2):h.arc(l,l,c,0,2*Math.PI),n&&(h.moveTo(l-3,l+3),h.lineTo(l+3,l-3));let d=e?2:1.2;for(let[u,m]of[[d+2,"rgba(0,0,0,.55)"],[d,i]])o.lineWidth=u,o.strokeStyle=m,o.stroke(h);return a.transferToImageBitmap()}function zf(i,t,e){let{list:n,frame:s,selected:r}=e,[a,o]=[Nt("--wrong"),Nt("--chosen")],l=window.devicePixelRatio||1,[c,h,d]=[new Oa,[],cs(null)];for(let g of n){let _=Ti(g,s);if(_<0||!jc(g,e))continue;let[f,p]=t.plateToScreen(g.xy[2*_],g.xy[2*_+1]);if(f<-20||p<-20||f>t.size[0]+20||p>t.size[1]+20)continue;let S=r.has(g.id),T=e.tints.get(g.note?.group);h.push({track:g,at:_,x:f,y:p,own:S,group:T,colour:S?o:g.aside?a:T??(g.rms==null?d:Na(pr(g.rms,1)))})}let u=h.length>lx;for(let{track:g,at:_,own:f,group:p,colour:S}of h)fx(c,t,g,_,f||g.aside||p?S:null,u&&!f?Kc/3:Kc);c.paint(i,1.1,!u);let m=u&&e.playing;m&&ux(i,h);for(let g of[!1,!0])for(let{track:_,x:f,y:p,own:S,colour:T}of h){if(S!==g||m&&!S)continue;let w=Bf(S,_.kind);i.drawImage(cx(T,_.kind,S,_.aside,l),f-w/2,p-w/2,w,w)}}function ux(i,t){i.fillStyle="rgba(0,0,0,.55)";for(let{x:n,y:s}of t)i.fillRect(Math.round(n)-2,Math.round(s)-2,5,5);let e=new Set(t.map(n=>n.colour));for(let n of e){i.fillStyle=n;for(let{x:s,y:r,colour:a}of t)a===n&&i.fillRect(Math.round(s)-1,Math.round(r)-1,3,3)}}function dx(i,t,e,n){for(let s=0;s<4;s++){let r=s*Math.PI/2+.3;i.moveTo(t+n*Math.cos(r),e+n*Math.sin(r)),i.arc(t,e,n,r,r+Math.PI/2-.6)}}function fx(i,t,e,n,s,r){let a=Math.max(0,n-r);if(r<Kc&&e.frames[a]===e.frames[n]-n+a){let l=i.of(s??Na(pr(e.sigmas[n],Jc)));l.moveTo(...t.plateToScreen(e.xy[2*a],e.xy[2*a+1])),l.lineTo(...t.plateToScreen(e.xy[2*n],e.xy[2*n+1]));return}let o=t.plateToScreen(e.xy[2*a],e.xy[2*a+1]);for(let l=a+1;l<=n;l++){let c=t.plateToScreen(e.xy[2*l],e.xy[2*l+1]);if(e.frames[l]===e.frames[l-1]+1){let h=i.of(s??Na(pr(e.sigmas[l],Jc)));h.moveTo(...o),h.lineTo(...c)}o=c}}function Hf(i,t,e){let n=new Oa;for(let s=0;s<e.length;s+=3){let[r,a]=t.plateToScreen(e[s],e[s+1]);n.of("#bfe8dc").rect(r-3,a-3,6,6)}n.paint(i,1.2)}function Vf(i,t){i.setLineDash([4,3]),i.beginPath(),t.forEach(([e,n],s)=>s?i.lineTo(e,n):i.moveTo(e,n)),i.closePath();for(let[e,n]of[[3,"rgba(0,0,0,.55)"],[1,Nt("--chosen")]])i.lineWidth=e,i.strokeStyle=n,i.stroke();i.setLineDash([])}var Ua=class{constructor(){this.surface=document.createElement("canvas"),this.row=1}picture(t,e,n,s,r){let a=[t.version,n,s,r,Nt("--wrong")].join();return this.wanted!==a&&(this.wanted=a,this.draw(t,o=>e(o)*r,Math.max(1,Math.round(n*r)),Math.max(1,Math.round(s*r))),this.row/=r),this.surface}draw(t,e,n,s){let{surface:r}=this;Object.assign(r,{width:n,height:s});let a=r.getContext("2d"),o=a.createImageData(n,s),l=new Uint32Array(o.data.buffer),c=Array.from({length:fr},(g,_)=>Ff(Na(_))),h=Ff(Nt("--wrong"));this.row=Math.min(14,s/Math.max(1,t.tracks.length));let d=t.tracks.length?Math.min(...t.tracks.map(g=>g.frames[0])):0,u=t.tracks.length?Math.max(...t.tracks.map(g=>g.frames[g.frames.length-1])):0,m=Array.from({length:u-d+1},(g,_)=>[e(d+_-.5),e(d+_+.5)].map(f=>Math.min(n,Math.max(0,Math.round(f)))));t.tracks.forEach((g,_)=>{let f=Math.floor(_*this.row),p=Math.min(s,Math.max(f+1,Math.floor((_+1)*this.row)-(this.row>3?1:0)));for(let S=0;S<g.frames.length;S++){let T=g.aside?h:c[g.rms!=null?pr(g.rms,1):pr(g.sigmas[S],Jc)],[w,R]=m[g.frames[S]-d];for(let E=f;E<p;E++)l.fill(T,E*n+w,E*n+Math.max(R,w+1))}}),a.putImageData(o,0,0)}chosen(t,e,n,s){t.fillStyle=Nt("--chosen"),e.tracks.forEach((r,a)=>{if(!e.selected.has(r.id))return;let o=n(r.frames[0]);t.fillRect(o-.5,s+a*this.row,Math.max(1,n(r.frames[r.frames.length-1])-o+1),Math.max(2,this.row-1))})}};function Ff(i){let t=document.createElement("canvas").getContext("2d");return t.fillStyle=i,t.fillRect(0,0,1,1),new Uint32Array(t.getImageData(0,0,1,1).data.buffer)[0]}var mx=.1,Gf={chosenHand:0,placing:!1,handName:"",compared:null,beginHands(){this.handTool=Re(new La(this.handHost()))},handHost(){let i=this,t=n=>i.data.tracks.find(s=>s.id===n),e=n=>{let s=t(n),r=s?Ti(s,i.frame):-1;return r<0?null:{id:n,px:[s.xy[2*r],s.xy[2*r+1]]}};return{all:()=>i.s.state.hands.map(n=>e(n.id)).filter(Boolean),on:e,chosen:()=>i.hand,placing:()=>i.placing,nudged:()=>i.nudgedTo??null,choose:n=>i.chooseHand(n??0),picture:()=>i.frames.at(i.frame)??i.lastPicture,loupe:n=>i.loupeShown=n,placed:n=>i.placeHand(n),keyed:(n,s)=>i.handDeed({do:"key",hand:n,frame:i.frame,px:s}),shaped:({id:n,kind:s},r)=>{let a=2*Math.round((2*Math.max(...r)-1)/2)+1,o=s==="pattern"?{pattern_px:Math.min(61,Math.max(9,a))}:{reach_px:r.map(l=>Math.min(1e3,Math.max(1,Math.round(l))))};return i.handDeed({do:"shape",hand:n,...o})}}},get hand(){return this.s.state.hands.find(i=>i.id===this.chosenHand)??null},get handRows(){return this.s.state.hands.map(i=>{let t=this.tracksSeen&&this.data.tracks.find(e=>e.id===i.id);return{id:i.id,name:i.name,keys:i.keys.length,frames:t?t.frames.length:i.keys.length,chosen:i.id===this.chosenHand}})},get handKeyed(){return this.hand!==null&&this.hand.keys.some(i=>i.frame===this.frame)},get handHint(){if(this.placing||!this.s.state.hands.length)return"Click a detail to place a hand track. Alt makes the pointer finer.";if(!this.hand)return"Click a marker or a row to choose; click a detail to place another.";let i=this.data.tracks.find(e=>e.id===this.chosenHand);return this.tracksSeen&&i&&Ti(i,this.frame)>=0?this.handKeyed?"A key lies on this frame. Drag the marker to move it; the corners of the boxes set pattern and reach.":"Drag the marker to correct it here: only what depends on it is followed again.":"It is not seen on this frame: click where it is to key it."},get comparedText(){let i=this.compared;return i?`correlation ${i.patches?i.patches.correlation.toFixed(3):"\u2013"} \xB7 \xB1${i.sigma_px.toFixed(3)} px`:""},get referenceText(){return this.compared?`reference, frame ${this.compared.reference_frame}`:""},chooseHand(i){this.chosenHand=i,this.placing=!1,this.pick(i?[i]:[],!1),this.askCompared()},togglePlacing(){this.placing=!this.placing,this.placing&&(this.chooseHand(0),this.placing=!0),this.redraw()},async handDeed(i){let t=null,e=await this.act(async()=>{let n=await $t(`/api/shots/${this.id}/hands`,i);return t=n.hand,n});return e&&t&&this.chooseHand(t),this.redraw(),e},placeHand(i){let t=this.handName.trim()||null;return this.handName="",this.handDeed({do:"place",frame:this.frame,px:i,name:t})},followHand(i){return this.handDeed({do:"follow",hand:this.chosenHand,frame:this.frame,way:i})},endHand(){return this.handDeed({do:"end",hand:this.chosenHand,frame:this.frame})},beginHand(){return this.handDeed({do:"begin",hand:this.chosenHand,frame:this.frame})},keyHere(){let i=this.handHost().on(this.chosenHand);if(i)return this.handDeed({do:"key",hand:this.chosenHand,frame:this.frame,px:i.px})},removeKey(){return this.handDeed({do:"unkey",hand:this.chosenHand,frame:this.frame})},async removeHand(){let i=this.chosenHand;this.chooseHand(0),await this.handDeed({do:"remove",hand:i})},shapeHand(i,t){let e=Number(t.target.value),[n,s]=this.hand.reach_px,r={pattern_px:{pattern_px:e},reach_x:{reach_px:[e,s]},reach_y:{reach_px:[n,e]},strictness:{strictness:e}}[i];return this.handDeed({do:"shape",hand:this.chosenHand,...r})},toKey(i){let t=this.hand.keys.map(n=>n.frame),e=i>0?t.find(n=>n>this.frame):t.filter(n=>n<this.frame).pop();e!==void 0&&this.seek(e)},nudgeHand(i){let t={ArrowLeft:[-1,0],ArrowRight:[1,0],ArrowUp:[0,-1],ArrowDown:[0,1]}[i.key],e=this.handHost().on(this.chosenHand);if(!i.altKey||!t||!e)return!1;let n=i.shiftKey?10:1,s=this.nudgedTo??e.px;return this.nudgedTo=[0,1].map(r=>s[r]+t[r]*mx*n),this.redraw(),!0},keepHandNudge(){if(!this.nudgedTo)return;let i=this.nudgedTo;this.nudgedTo=null,this.handDeed({do:"key",hand:this.chosenHand,frame:this.frame,px:i})},async askCompared(){let i=this.station==="track"&&this.selectedCount===1?this.data.tracks.find(s=>this.data.selected.has(s.id)):null,t=i&&Ti(i,this.frame)>=0?i.id:0,e=`${t} ${this.frame} ${this.versions.tracks}`;if(e===this.versions.compared)return;this.versions.compared=e;let n=t?await de(`/api/shots/${this.id}/tracks/${t}/look?frame=${this.frame}`).catch(()=>null):null;e===this.versions.compared&&(this.compared=n,n?.patches&&(await this.$nextTick(),this.paintPatch(this.$refs.reference,n.side,n.patches.reference),this.paintPatch(this.$refs.current,n.side,n.patches.current)))},paintPatch(i,t,e){i.width=t,i.height=t;let n=new ImageData(t,t);e.forEach((s,r)=>n.data.set([s,s,s,255],4*r)),i.getContext("2d").putImageData(n,0,0)}};var Qc=9,Fa=(i,t)=>Math.hypot(i[0]-t[0],i[1]-t[1]),ka=class{constructor(t){Object.assign(this,{host:t,drag:null})}down(t,e){let{host:n}=this,{viewport:s}=e,r=e.at(t),a=s.screenToPlate(...r),o=n.drawing();if(o){o.length>2&&Fa(s.plateToScreen(...o[0]),r)<Qc?n.closed():n.laid(a),e.draw();return}let l=this.grip(r,a,s);if(!l){n.choose(-1),e.draw();return}if(n.choose(l.matte),l.side!==void 0&&t.shiftKey){n.pointed(l.matte,l.side,a);return}let c=n.outlines().find(h=>h.matte===l.matte);this.drag={grip:l,from:a,begun:r,moved:!1,points:c.points},e.draw()}move(t,e){let{drag:n}=this;if(!n)return;let s=e.at(t);if(!n.moved&&Fa(s,n.begun)<3)return;n.moved=!0;let r=e.viewport.screenToPlate(...s),a=[r[0]-n.from[0],r[1]-n.from[1]];n.now=n.points.map((o,l)=>n.grip.point===void 0||n.grip.point===l?[o[0]+a[0],o[1]+a[1]]:o),e.draw()}up(){let{drag:t}=this;this.drag=null,t?.moved&&this.host.keyed(t.grip.matte,t.now)}ended(){this.host.drawing()?.length>2&&this.host.closed()}grip(t,e,n){let s=this.host.outlines();for(let{matte:r,points:a}of s){let o=a.findIndex(l=>Fa(n.plateToScreen(...l),t)<Qc);if(o>=0)return{matte:r,point:o}}for(let{matte:r,points:a}of s){let o=a.map(h=>n.plateToScreen(...h)),l=o.findIndex((h,d)=>this.beside(t,h,o[(d+1)%o.length])<Qc-2);if(l>=0)return{matte:r,side:l};if(a.reduce((h,[d,u],m)=>{let[g,_]=a[(m+1)%a.length];return u>e[1]!=_>e[1]&&e[0]<d+(e[1]-u)/(_-u)*(g-d)?!h:h},!1))return{matte:r}}return null}beside(t,e,n){let s=[n[0]-e[0],n[1]-e[1]],r=Math.min(1,Math.max(0,((t[0]-e[0])*s[0]+(t[1]-e[1])*s[1])/(s[0]**2+s[1]**2||1)));return Fa(t,[e[0]+r*s[0],e[1]+r*s[1]])}paint(t){let{host:e}=this;for(let{matte:s,points:r,keyed:a,off:o}of e.outlines()){let l=s===e.chosen(),c=this.drag?.now&&this.drag.grip.matte===s?this.drag.now:r;this.outline(t,c,l,a,o)}let n=e.drawing();n?.length&&this.outline(t,n,!0,!0,!1,!0)}outline({ctx:t,viewport:e},n,s,r,a,o=!1){let l=n.map(d=>e.plateToScreen(...d)),c=()=>{t.beginPath(),l.forEach(([d,u],m)=>m?t.lineTo(d,u):t.moveTo(d,u)),o||t.closePath()},h=Nt(s?"--chosen":"--wrong");if(!o&&!a&&(c(),t.globalAlpha=.22,t.fillStyle=Nt("--wrong"),t.fill(),t.globalAlpha=1),t.setLineDash(r?[]:[5,3]),he(t,s?1.6:1.1,h,c),t.setLineDash([]),!!s)for(let[d,u]of l)he(t,1.2,h,()=>{t.beginPath(),t.rect(d-3,u-3,6,6)})}};var gx={drawn:"drawn",alpha:"alpha",colour:"colour",sequence:"sequence"};function _x(i,t){let e=i.findIndex(a=>a.frame>t);if(e===0||i.length===1)return i[0].points;if(e<0)return i[i.length-1].points;let[n,s]=[i[e-1],i[e]],r=(t-n.frame)/(s.frame-n.frame);return n.points.map((a,o)=>[0,1].map(l=>a[l]+r*(s.points[o][l]-a[l])))}var Wf={chosenMatte:-1,drawingMatte:!1,matteFolder:"",beginMattes(){this.matteDrawn=Re({points:null}),this.matteTool=Re(new ka(this.matteHost()))},matteHost(){let i=this;return{drawing:()=>i.matteDrawn.points,chosen:()=>i.chosenMatte,choose:t=>i.chosenMatte=t,outlines:()=>i.s.state.mattes.flatMap(({source:t,off:e,frames:n},s)=>{if(t.kind!=="drawn")return[];let r=n&&(i.frame<n[0]||i.frame>n[1]);return[{matte:s,points:_x(t.keys,i.frame),keyed:t.keys.some(a=>a.frame===i.frame),off:e||r}]}),laid:t=>i.matteDrawn.points.push(t),closed:()=>i.closeMatte(),keyed:(t,e)=>i.matteDeed({do:"key",matte:t,frame:i.frame,points:e}),pointed:(t,e,n)=>i.matteDeed({do:"point",matte:t,frame:i.frame,after:e,px:n})}},get matteRows(){return this.s.state.mattes.map((i,t)=>({index:t,name:i.name,off:i.off,chosen:t===this.chosenMatte,text:i.source.kind==="drawn"?`${i.source.keys.length} ${i.source.keys.length===1?"key":"keys"}`:gx[i.source.kind]}))},get matte(){return this.s.state.mattes[this.chosenMatte]??null},get matteKey(){return this.matte!==null&&this.matte.source.kind==="colour"?this.matte.source:null},get matteIsDrawn(){return this.matte!==null&&this.matte.source.kind==="drawn"},get matteKeyed(){return this.matteIsDrawn&&this.matte.source.keys.length>1&&this.matte.source.keys.some(i=>i.frame===this.frame)},get matteFrames(){return this.matte?.frames?this.matte.frames.join("\u2013"):"all"},get matteHint(){return this.drawingMatte?"Click around what is not to be followed; Enter or a click on the first point closes it.":this.s.state.mattes.length?this.matteIsDrawn?"Drag a point, or the whole outline, to key it on this frame. Shift-click a side adds a point at all keys.":"What mattes leave out is tinted. Drawn ones act at once; others when features are followed.":"Mattes say where not to follow: draw one, key a colour, or take a sequence."},matteDeed(i){return this.act(()=>$t(`/api/shots/${this.id}/mattes`,i))},drawMatte(){this.drawingMatte=!this.drawingMatte,this.matteDrawn.points=this.drawingMatte?[]:null,this.chosenMatte=-1,this.redraw()},async closeMatte(){let i=this.matteDrawn.points?.filter((t,e,n)=>e===0||Math.hypot(t[0]-n[e-1][0],t[1]-n[e-1][1])>1)??[];if(this.matteDrawn.points=null,this.drawingMatte=!1,i.length<3)return this.redraw();await this.matteDeed({do:"draw",frame:this.frame,points:i})&&(this.chosenMatte=this.s.state.mattes.length-1),this.redraw()},dropMatte(){this.matteDrawn.points=null,this.drawingMatte=!1,this.redraw()},async addMatte(i){let t=i==="sequence"?{do:i,folder:this.matteFolder.trim()}:{do:i};await this.matteDeed(t)&&(this.chosenMatte=this.s.state.mattes.length-1)},chooseMatte(i){this.chosenMatte=i,this.redraw()},setMatte(i){return this.matteDeed({do:"set",matte:this.chosenMatte,...i})},setMatteFrames(i){let[t,e]=i.target.value.split(/[–-]/).map(n=>Number.parseInt(n,10));return this.setMatte(Number.isFinite(t)&&Number.isFinite(e)?{frames:[t,e]}:{all_frames:!0})},setMatteKey(i,t){let{kind:e,...n}=this.matteKey;return this.setMatte({key:{...n,[i]:Number(t.target.value)}})},unkeyMatte(){return this.matteDeed({do:"unkey",matte:this.chosenMatte,frame:this.frame})},async removeMatte(){let i=this.chosenMatte;this.chosenMatte=-1,await this.matteDeed({do:"remove",matte:i}),this.redraw()},maskShown(){let i=this.s.state.mattes.some(e=>e.source.kind!=="drawn"&&!e.off);if(this.station!=="track"||this.trackPanel!=="mattes"||!i||this.playing)return null;let t=JSON.stringify([this.frame,this.s.state.mattes,this.s.state.range]);return this.data.mask?.wanted!==t&&this.askMask(t),this.data.mask?.picture??null},async askMask(i){this.data.mask={wanted:i,picture:this.data.mask?.picture??null};let t=await fetch(`/api/shots/${this.id}/mattes/${this.frame}`);if(!t.ok||this.data.mask.wanted!==i)return;let e=await createImageBitmap(await t.blob());if(this.data.mask.wanted!==i)return;let n=document.createElement("canvas");Object.assign(n,{width:e.width,height:e.height});let s=n.getContext("2d");s.drawImage(e,0,0),s.globalCompositeOperation="source-in",s.fillStyle="#dc6a61",s.fillRect(0,0,n.width,n.height),this.data.mask={wanted:i,picture:n},this.redraw()}};var th=[{key:"start",name:"birth",of:i=>i.frames[0],unit:"frame"},{key:"life",name:"life",of:i=>i.frames.length,unit:"frames"},{key:"sigma",name:"sigma",of:i=>i.sigma,unit:"px"},{key:"rms",name:"residual",of:i=>i.rms,unit:"px"},{key:"drift",name:"drift",of:i=>i.drift,unit:"px"},{key:"jitter",name:"jitter",of:i=>i.jitter,unit:"px"}],Xf={culled:"set aside by you",mover:"moves by itself",false_corner:"false corner",drifts:"drifts",jitters:"shakes",duplicate:"doubles another",short:"too short",against:"against the scene",limit:"above the limit",parallel:"too little parallax"},Ba=i=>i==null?"\u2013":`${i.toFixed(3)} px`,qf={trackPanel:"features",trackPanels:[{key:"features",name:"Features"},{key:"hands",name:"Hand"},{key:"mattes",name:"Mattes"},{key:"tracks",name:"Judge"}],looping:!1,previewing:!1,previewCount:0,sortBy:"start",sorts:th.map(({key:i,name:t})=>({key:i,name:t})),above:"",below:"",onlySelected:!1,holding:!1,tracksSeen:0,importSaid:"",goPanel(i){this.trackPanel=i,this.dropMatte(),this.redraw()},get trackTool(){return{hands:this.handTool,mattes:this.matteTool}[this.trackPanel]??null},sorted(){let i=th.find(o=>o.key===this.sortBy),t=JSON.stringify([this.sortBy,this.above,this.below,this.onlySelected,this.showAside,this.tracksSeen,this.onlySelected?[...this.data.selected]:0]);if(this.data.listed?.wanted===t)return this.data.listed.tracks;let[e,n]=[this.above,this.below].map(o=>o.trim()===""?null:Number.parseFloat(o)),s=o=>{let l=i.of(o);return this.onlySelected?this.data.selected.has(o.id):o.note?.hidden||o.aside&&!this.showAside?!1:(e===null||l!=null&&l>e)&&(n===null||l!=null&&l<n)},r=this.data.tracks.filter(s),a=this.sortBy==="start"?1:-1;return r.sort((o,l)=>a*((i.of(o)??-1e9)-(i.of(l)??-1e9))||o.id-l.id),this.data.listed={wanted:t,tracks:r},r},get listedText(){return this.tracksSeen>=0?`${this.sorted().length} listed`:""},get sortUnit(){return th.find(i=>i.key===this.sortBy).unit},setSort(i){this.sortBy=i,[this.above,this.below]=["",""],this.redraw()},setBound(i,t){this[i]=t.target.value,this.redraw()},selectListed(){this.pick(this.sorted().map(i=>i.id),!1)},invertSelection(){let i=this.data.selected;this.pick(this.sorted().filter(t=>!i.has(t.id)).map(t=>t.id),!1)},toggleOnlySelected(){this.onlySelected=!this.onlySelected,this.redraw()},get chosenTrack(){return this.selectedCount!==1||!this.tracksSeen?null:this.data.tracks.find(i=>this.data.selected.has(i.id))??null},get chosenFigures(){let i=this.chosenTrack;if(!i)return[];let t=i.suspect?`${Xf[i.suspect.why]}${i.suspect.why==="short"||i.suspect.figure===0?"":`, ${i.suspect.figure.toFixed(2)} px`}`:"\u2013";return[["life",`${i.frames[0]}\u2013${i.frames[i.frames.length-1]}, ${i.frames.length}`],["sigma",Ba(i.sigma)],["drift",Ba(i.drift)],["jitter",Ba(i.jitter)],["residual",Ba(i.rms)],["suspect",t],["aside",i.aside?Xf[i.aside]:"no"]].map(([e,n])=>({key:e,value:n}))},get selectedNotes(){return this.data.tracks.filter(i=>this.data.selected.has(i.id)).map(i=>i.note??{})},shared(i,t){if(!this.selectedCount||!this.tracksSeen)return t;let e=new Set(this.selectedNotes.map(n=>n[i]??t));return e.size===1?[...e][0]:t},noteTracks(i){return this.act(()=>$t(`/api/shots/${this.id}/tracks`,{tracks:[...this.data.selected],...i}))},promote(){let i=[...this.data.selected];return this.trackPanel="hands",this.handDeed({do:"promote",tracks:i})},toWorst(){this.chosenTrack?.worst!=null&&this.seek(this.chosenTrack.worst)},seeAll(i){this.pick(i.tracks,!1),this.onlySelected=!0;let t=this.data.tracks.find(e=>i.tracks.includes(e.id));t&&Ti(t,this.frame)<0&&this.seek(t.worst??t.frames[0]),this.redraw()},keepAll(i){return this.act(()=>$t(`/api/shots/${this.id}/cull`,{back:i.tracks}))},dropAll(i){return this.act(()=>$t(`/api/shots/${this.id}/cull`,{aside:i.tracks}))},togglePreview(){this.previewing=!this.previewing,this.previewShown(),this.redraw()},previewShown(){if(this.station!=="track"||this.trackPanel!=="features"||!this.previewing||this.playing)return null;let i=JSON.stringify([this.frame,this.s.state.track,this.s.state.adjust,this.s.state.mattes]);return this.data.preview?.wanted!==i&&this.askPreview(i),this.data.preview?.frame===this.frame?this.data.preview.places:null},async askPreview(i){this.data.preview={...this.data.preview,wanted:i};let t=await de(`/api/shots/${this.id}/features?frame=${this.frame}`).catch(e=>({error:e.message}));this.data.preview.wanted===i&&(t.error&&(this.error=t.error),this.data.preview={wanted:i,frame:t.frame,places:t.places??[]},this.previewCount=t.count??0,this.redraw())},toggleHold(){this.holding=!this.holding,this.data.hold=null,this.redraw()},holdShown(){if(!this.holding||this.selectedCount!==1)return null;let i=this.data.tracks.find(e=>this.data.selected.has(e.id)),t=i?Ti(i,this.frame):-1;return t<0?null:(this.data.hold={...this.data.hold?.id===i.id?this.data.hold:{},id:i.id,px:[i.xy[2*t],i.xy[2*t+1]]},this.data.hold)},tracksLink(i){return`/api/shots/${this.id}/tracks.${i}`},async importTracks(i){let[t]=i.target.files;t&&(this.importSaid="",await this.act(async()=>{this.importSaid=(await Sa(`/api/shots/${this.id}/tracks/import`,t)).said}),i.target.value="")}};var za=class{constructor(t,e,n,s,r){this.path=a=>`/api/shots/${t}/frames/${a}${this.query}`,this.query="",this.size=e*n*4,this.pictures=new Map,this.pending=new Set,this.changed=r,this.budget(s)}budget(t){this.most=Math.max(12,Math.floor(t/this.size)),this.trim()}trim(){for(;this.pictures.size>this.most;){let[t,e]=this.pictures.entries().next().value;e.close(),this.pictures.delete(t)}}look(t){if(this.query===t)return!1;this.query=t;for(let e of this.pictures.values())e.close();return this.pictures.clear(),this.pending.clear(),!0}at(t){let e=this.pictures.get(t);return e?(this.pictures.delete(t),this.pictures.set(t,e),e):(this.ask(t),null)}has(t){return this.pictures.has(t)}ahead(t,e,n){for(let s=1;s<=8;s++){let r=t+s>e?n+(t+s-e-1)%(e-n+1):t+s;this.pending.size<8&&!this.pictures.has(r)&&this.ask(r)}}async fill(t,e){let{query:n}=this;for(let s=t;s<=e&&this.pictures.size<this.most&&n===this.query;s++)this.pictures.has(s)||await this.ask(s)}async ask(t){if(this.pending.has(t))return;this.pending.add(t);let{query:e}=this;try{let n=await fetch(this.path(t));if(!n.ok)return;let s=await createImageBitmap(await n.blob());if(e!==this.query)return s.close();this.pictures.set(t,s),this.trim(),this.changed(t)}catch{}finally{e===this.query&&this.pending.delete(t)}}};var $f=9,Yf=20,Zf=(i,t)=>Math.hypot(i[0]-t[0],i[1]-t[1]);function xx(i,t,e){let n=1/0;for(let s=0;s+3<t.length;s+=2){let[r,a]=[e.plateToScreen(t[s],t[s+1]),e.plateToScreen(t[s+2],t[s+3])],o=[a[0]-r[0],a[1]-r[1]],l=Math.min(1,Math.max(0,((i[0]-r[0])*o[0]+(i[1]-r[1])*o[1])/(o[0]**2+o[1]**2||1)));n=Math.min(n,Zf(i,[r[0]+l*o[0],r[1]+l*o[1]]))}return n}var Ha=class{constructor(t){Object.assign(this,{host:t,drag:null})}down(t,e){let{host:n}=this,s=e.at(t),r=t.shiftKey?null:this.grip(s,e.viewport);if(this.drag={grip:r,screen:s,begun:s,moved:!1,at:r?[...r.px]:e.viewport.screenToPlate(...s)},r){n.choose(r.straight,r.mark);return}let a=n.drawing||t.shiftKey?-1:this.line(s,e.viewport);if(a>=0){n.choose(a,-1),this.drag=null;return}n.added(this.drag.at)}move(t,e){let{drag:n,host:s}=this;!n||!Ia(n,t,e)||(n.grip?s.dragged(n.grip,n.at):s.adjusted(n.at),s.loupe(!0),fs(e.loupe,s.picture(),e.viewport,n.at),e.draw())}up(){let{drag:t,host:e}=this;this.drag=null,e.loupe(!1),t?.moved&&t.grip&&e.dropped(t.grip)}ended(){this.host.ended()}grip(t,e){let n=[$f,null];return this.host.shown().forEach(({marks:s,index:r})=>{s.forEach((a,o)=>{if(!(o===0||o===s.length-1)&&r!==this.host.chosen.straight)return;let c=Zf(e.plateToScreen(...a),t);c<n[0]&&(n=[c,{straight:r,mark:o,px:a}])})}),n[1]}line(t,e){let n=this.host.shown().map(({marks:a,index:o,curve:l})=>[xx(t,l??a.flat(),e),o]),[s,r]=n.reduce((a,o)=>o[0]<a[0]?o:a,[1/0,-1]);return s<$f?r:-1}paint(t){let{ctx:e,viewport:n}=t,{chosen:s,drawing:r}=this.host;for(let{marks:a,index:o,curve:l,after:c,misses:h}of this.host.shown()){let d=o===s.straight,u=d?Nt("--chosen"):c==null?Nt("--active"):cs(c);he(e,d?1.8:1.3,u,()=>an(e,n,[l??a.flat()])),this.marks(e,n,a,u,d?s.mark:-1),d&&h&&this.needles(e,n,a,h),this.number(e,n,a[0],o)}r?.length&&(he(e,1.5,Nt("--chosen"),()=>an(e,n,[r.flat()])),this.marks(e,n,r,Nt("--chosen"),r.length-1))}marks(t,e,n,s,r){n.forEach((a,o)=>{let[l,c]=e.plateToScreen(...a),h=o===r?5:2.5;he(t,o===r?2:1.2,s,()=>{t.beginPath(),t.moveTo(l-h,c-h),t.lineTo(l+h,c+h),t.moveTo(l+h,c-h),t.lineTo(l-h,c+h)})})}needles(t,e,n,s){he(t,1,Nt("--wrong"),()=>{t.beginPath(),n.forEach((r,a)=>{let[o,l]=e.plateToScreen(...r),[c,h]=s[a]??[0,0];t.moveTo(o,l),t.lineTo(o+Yf*c,l+Yf*h)})})}number(t,e,n,s){let[r,a]=e.plateToScreen(...n);t.font='11px "Plex Mono", monospace',t.textAlign="center",t.textBaseline="middle",t.lineWidth=3,t.strokeStyle="rgba(0,0,0,.7)",t.strokeText(String(s+1),r,a-12),t.fillStyle="#f5f2ea",t.fillText(String(s+1),r,a-12)}};var Kf=i=>JSON.parse(JSON.stringify(i??null)),yx=["k1","k2","k3","p1","p2"],vx=1e-12,Jf={undistorted:!1,lensGrid:!1,snapping:!0,filling:!0,drawingCount:0,chosenStraight:-1,loupeShown:!1,lensLive:null,lenses:[],lensSaid:"",lensLabel:{body:"",lens:"",focal_mm:"",focus:""},termCounts:[1,2,3],keeps:[{key:"all",name:"keep all"},{key:"size",name:"keep size"}],units:[{key:"focal",name:"focal"},{key:"half-width",name:"\xBD width"},{key:"half-diagonal",name:"\xBD diagonal"}],beginLens(){this.marking=Re({straights:[],answer:null,drawing:null,asking:!1,waiting:!1,chosen:{straight:-1,mark:-1}}),this.tool=Re(new Ha(this.lensHost()))},followLens(){this.marking.straights=Kf(this.s.state.lens.straights),this.marking.answer=Kf(this.s.lens),this.lensLive=this.s.lens,this.marking.chosen.straight>=this.marking.straights.length&&this.chooseStraight(-1,-1);let i=JSON.stringify([this.s.lens.used,this.s.state.lens.keep,this.s.lens.sizes]);i!==this.versions.lens&&(this.versions.lens=i,this.bend=null,this.s.lens.used?this.loadBend(i):this.undistorted=!1)},async loadBend(i){try{let t=await de(`/api/shots/${this.id}/lens/mesh`);if(i!==this.versions.lens)return;this.bend=Re(new wa(t,[this.s.width,this.s.height])),this.redraw()}catch(t){this.undistorted=!1,this.error=t.message}},get bendShown(){return this.undistorted?this.bend:null},get caption(){if(this.showAdjusted)return`Plate \xB7 adjusted for following${this.undistorted?", undistorted":""}`;if(!this.undistorted||!this.bend)return"Plate \xB7 as shot";let[i,t]=this.bend.size;return`Plate \xB7 undistorted ${i}\xD7${t}, ${this.s.state.lens.keep==="all"?"all kept":"size kept"}`},toggleUndistorted(){if(!this.s.lens.used){this.error="Nothing is known of the lens yet, so there is nothing to undistort. Mark straights, state values or solve the lens along.";return}this.undistorted=!this.undistorted,this.redraw()},toggleLensGrid(){this.lensGrid=!this.lensGrid,this.redraw()},lensHost(){let i=this,t=()=>i.marking.straights;return{get drawing(){return i.marking.drawing},get chosen(){return i.marking.chosen},picture:()=>i.frames.at(i.frame)??i.lastPicture,loupe:e=>i.loupeShown=e,shown:()=>t().flatMap(({frame:e,marks:n},s)=>{let r=i.marking.answer?.straights?.[s];return e===i.frame?[{index:s,marks:n,curve:r?.curve,after:r?.after_px,misses:r?.misses_px}]:[]}),choose:(e,n)=>{i.chooseStraight(e,n),i.redraw()},added:e=>{i.chooseStraight(-1,-1),i.marking.drawing=[...i.marking.drawing??[],e],i.drawingCount=i.marking.drawing.length,i.redraw()},adjusted:e=>i.marking.drawing[i.marking.drawing.length-1]=e,dragged:({straight:e,mark:n},s)=>{t()[e].marks[n]=s,i.askLens()},dropped:async({straight:e})=>{for(;i.marking.asking;)await new Promise(n=>setTimeout(n,5));await i.keepStraights(`move a mark of straight ${e+1}`)},ended:()=>i.endStraight()}},keepStraights(i){return this.editLens(i,{straights:this.marking.straights})},editLens(i,t){return this.edit(i,{lens:t})},async askLens(){let{marking:i}=this;if(i.waiting=!0,!i.asking){for(i.asking=!0;i.waiting;){i.waiting=!1;let t={...this.s.state.lens,straights:i.straights},e=await $t(`/api/shots/${this.id}/lens`,{lens:t}).catch(()=>null);e&&(i.answer=e,this.lensLive=e),this.redraw()}i.asking=!1}},async endStraight(){let{marking:i}=this,t=i.drawing;if(!t)return;if(t=t.filter((r,a)=>a===0||Math.hypot(r[0]-t[a-1][0],r[1]-t[a-1][1])>1.5),i.drawing=null,this.drawingCount=0,t.length<2)return this.redraw();let e="";if(this.snapping){let r=this.filling?Math.max(8,this.s.width/64):null;try{t=(await $t(`/api/shots/${this.id}/lens/snap`,{straight:{frame:this.frame,marks:t},spacing_px:r})).marks}catch(a){e=a.message}}if(t.length<3)return this.error=e||"A straight needs three marks or more: two always lie on a line. Click along the edge.",this.redraw();let n=i.straights.length,s=[...i.straights,{frame:this.frame,marks:t}];await this.editLens(`mark straight ${n+1}`,{straights:s,source:"straights"}),e&&(this.error=e),this.chooseStraight(n,-1),this.redraw()},dropDrawing(){this.marking.drawing=null,this.drawingCount=0,this.redraw()},takeBackMark(){let{drawing:i}=this.marking;i&&(i.pop(),i.length||(this.marking.drawing=null),this.drawingCount=i.length,this.redraw())},chooseStraight(i,t){this.marking.chosen={straight:i,mark:t},this.chosenStraight=i},showStraight(i){this.chooseStraight(i,-1),this.seek(this.s.state.lens.straights[i].frame)},removeChosenMarks(){let{straight:i,mark:t}=this.marking.chosen,{straights:e}=this.marking;if(!e[i])return;let n=t<0||e[i].marks.length<=3;return n?e.splice(i,1):e[i].marks.splice(t,1),this.chooseStraight(n?-1:i,-1),this.keepStraights(n?`remove straight ${i+1}`:`remove a mark of straight ${i+1}`)},nudgeMark(i){let{straight:t,mark:e}=this.marking.chosen,n=this.marking.straights[t]?.marks[e];if(!n)return!1;let s=i.shiftKey?1:.1,r={ArrowLeft:[-s,0],ArrowRight:[s,0],ArrowUp:[0,-s],ArrowDown:[0,s]}[i.key];return this.marking.straights[t].marks[e]=[n[0]+r[0],n[1]+r[1]],this.nudged=!0,this.askLens(),!0},async keepNudge(){if(this.nudged){for(this.nudged=!1;this.marking.asking;)await new Promise(i=>setTimeout(i,5));return this.keepStraights("nudge a mark")}},async snapChosen(){let i=this.marking.straights[this.chosenStraight];if(i){this.error="";try{let{marks:t,moved_px:e}=await $t(`/api/shots/${this.id}/lens/snap`,{straight:i});i.marks=t,await this.keepStraights(`snap straight ${this.chosenStraight+1}`),this.lensSaid=`Moved by ${e.toFixed(2)} px at most.`}catch(t){this.error=t.message}}},get straightRows(){let i=t=>t==null?"\u2013":t.toFixed(2);return(this.lensLive?.straights??[]).map((t,e)=>({index:e,name:`${e+1}`,frame:t.frame,marks:t.marks,text:`${i(t.before_px)} \u2192 ${i(t.after_px)}`,here:t.frame===this.frame,chosen:e===this.chosenStraight,worst:e===this.lensLive?.figures?.worst}))},get lensFigures(){let i=this.lensLive?.figures;if(!i)return[];let t=s=>i.sigma?.[s]?` \xB1${i.sigma[s].toFixed(5)}`:"",e=yx.filter(s=>Math.abs(i.terms[s])>vx||s==="k1").map(s=>({key:s,value:i.terms[s].toFixed(5)+t(s)})),n=i.centre_sigma_px?` \xB1${i.centre_sigma_px[0].toFixed(1)}, ${i.centre_sigma_px[1].toFixed(1)}`:"";return e.push({key:"centre",value:`${i.centre[0].toFixed(1)}, ${i.centre[1].toFixed(1)}${n} px`}),e.push({key:"unit of radius",value:`${i.focal_px.toFixed(1)} px`}),i.rms_px&&e.push({key:"bent, as shot",value:`${i.rms_px[0].toFixed(2)} px`},{key:"bent, with the lens",value:`${i.rms_px[1].toFixed(2)} px`}),i.corner_sigma_px!==void 0&&e.push({key:"corner certain to",value:`\xB1${i.corner_sigma_px.toFixed(2)} px`}),i.corner_px&&e.push({key:"valid up to",value:i.valid_radius_px?`${i.valid_radius_px} of ${i.corner_px} px`:"everywhere"}),e},get olderText(){let i=this.lensLive?.older;if(!i)return"";let{k1:t,k2:e,k3:n,p1:s,p2:r}=i.terms,a=s||r?`, p1 ${s.toFixed(5)}, p2 ${r.toFixed(5)}`:"";return`k1 ${t.toFixed(5)}, k2 ${e.toFixed(5)}, k3 ${n.toFixed(5)}${a}; error ${i.largest_px.toFixed(3)} px at most`},get usedText(){let i=this.s.lens.used;if(!i)return"none";let t=this.s.state.lens.source==="values"?this.s.state.lens.values.taken_from:null;return t&&i.origin==="from values"?t:i.origin},get marksHint(){return this.drawingCount===0?"Click along an edge that is straight in reality.":`${this.drawingCount} ${this.drawingCount===1?"mark":"marks"}. Enter or a double click ends, Backspace takes one back.`},sizeText(i){let t=this.lensLive?.sizes?.[i];return t?`${t[0]}\xD7${t[1]}`:"\u2013"},setTerm(i,t){return this.editLens(`set ${i}`,{source:"values",values:{terms:{[i]:Number(t.target.value)},taken_from:null}})},setConvention(i){return this.editLens("set the convention",{source:"values",values:{convention:i,taken_from:null}})},setUnit(i){let t=i.target.value.trim();return this.editLens("set the unit of the radius",{source:"values",values:{focal_px:t===""?null:Number.parseFloat(t),taken_from:null}})},takeUnit(i){let t={"half-width":this.s.width/2,"half-diagonal":Math.hypot(this.s.width,this.s.height)/2}[i]??null;return this.editLens("set the unit of the radius",{source:"values",values:{focal_px:t,taken_from:null}})},setCentre(i){let[t,e]=i.target.value.split(/[ ,;]+/).map(Number);return this.editLens("set the centre",{source:"values",values:{centre:Number.isFinite(t)&&Number.isFinite(e)?[t,e]:null,taken_from:null}})},get centreText(){return this.s.state.lens.values.centre?.map(i=>i.toFixed(1)).join(", ")??""},writtens:[{key:"png",name:"PNG",title:"16 bits"},{key:"exr",name:"EXR",title:"half float"},{key:"jpeg",name:"JPEG",title:"8 bits, quality 95"}],get undistortedReceipt(){return this.s.undistorted?.receipt??null},get undistortedSize(){return this.s.lens.used?`${this.sizeText(this.s.state.lens.keep)} px`:"no lens"},get undistortedSaid(){return this.s.undistorted.stale?"The lens, the range or the format changed since. Undistort again.":this.undistortedReceipt.proven?"The written maps lead back to the plate.":"The written maps do not lead back to the plate. Do not use them."},undistortedLink(i){return`/api/shots/${this.id}/undistorted/${this.s.state.undistorted}${i?`/${i}`:""}`},async loadLenses(){try{this.lenses=(await de("/api/lenses")).kept}catch(i){this.error=i.message}},takeLens(i){return this.act(()=>$t(`/api/shots/${this.id}/lens/take`,{lens:i}))},async changeLenses(i,t){this.error="";try{this.lenses=(await t()).kept,this.lensSaid=i}catch(e){this.error=e.message}},keepLens(){let{body:i,lens:t,focal_mm:e,focus:n}=this.lensLabel,s={body:i,lens:t,focal_mm:e===""?null:Number.parseFloat(e),focus:n};return this.changeLenses(`${t} is kept for other shots.`,()=>$t(`/api/shots/${this.id}/lens/keep`,s))},forgetLens(i){return this.changeLenses("Removed from the library; shots that took it keep its values.",()=>pf(`/api/lenses/${i}`))},async importLens(i){let[t]=i.target.files;if(!t)return;let e=await t.text();i.target.value="",await this.changeLenses(`${t.name} is in the library.`,()=>Sa("/api/lenses",e))}};var Sx=12,Va=class extends ds{constructor(t,e,n,s,r,a){super(t,n,s),Object.assign(this,{loupe:e,scene:r,picked:a,drag:null}),t.addEventListener("dblclick",()=>this.scene().tool?.ended()),t.addEventListener("pointerdown",o=>this.down(o)),t.addEventListener("pointermove",o=>this.move(o)),t.addEventListener("pointerup",o=>this.up(o)),this.observe()}draw(){let{ctx:t,viewport:e}=this,n=this.scene();e.through(n.bend),n.hold&&e.hold(n.hold),this.begin(n.picture,n.playing);let s=n.selected;this.inside(()=>{n.show.grid&&dr(t,e,n.overlay?.grid),n.mask&&this.veil(n.mask),n.show.tracks&&zf(t,e,{...n,list:n.tracks}),n.preview&&Hf(t,e,n.preview),n.show.landmarks&&xf(t,e,n.overlay?.points,s),n.show.lensGrid&&dr(t,e,n.lens?.grid),n.show.boxes&&_f(t,e,n.overlay?.boxes)}),n.bend&&vf(t,e),n.tool?.paint(this),this.drag?.kind==="box"&&yf(t,this.drag.from,this.drag.to),this.drag?.kind==="loop"&&Vf(t,this.drag.points)}veil(t){let{ctx:e,viewport:n}=this;e.globalAlpha=.45,n.bend||e.drawImage(t,...this.frame()),e.globalAlpha=1}down(t){this.canvas.setPointerCapture(t.pointerId);let e=this.at(t),n=t.button===0?this.scene().tool:null;if(n){this.drag={kind:"tool",tool:n},n.down(t,this);return}this.drag={kind:t.button===0?"click":"pan",from:e,to:e}}move(t){if(!this.drag)return;if(this.drag.kind==="tool")return this.drag.tool.move(t,this);let e=this.at(t);if(this.drag.kind==="pan"){this.viewport.pan(e[0]-this.drag.to[0],e[1]-this.drag.to[1]);let{hold:s}=this.scene();s&&(s.at=null)}let n=Math.hypot(e[0]-this.drag.from[0],e[1]-this.drag.from[1])>4;this.drag.kind==="click"&&n&&Object.assign(this.drag,this.scene().looping?{kind:"loop",points:[this.drag.from]}:{kind:"box"}),this.drag.kind==="loop"&&this.drag.points.push(e),this.drag.to=e,this.draw()}up(t){let e=this.drag;if(this.drag=null,e?.kind==="tool")return e.tool.up(t,this);if(!e||e.kind==="pan")return;let n={box:()=>this.within(e.from,e.to),loop:()=>this.inLoop(e.points),click:()=>this.nearest(e.from)}[e.kind]();this.picked(n,t.shiftKey)}*features(){let t=this.scene();if(t.show.tracks)for(let e of t.tracks){let n=Ti(e,t.frame);n>=0&&jc(e,t)&&(yield[e.id,...this.viewport.plateToScreen(e.xy[2*n],e.xy[2*n+1])])}else if(t.show.landmarks&&t.overlay?.points){let e=t.overlay.points;for(let n=0;n<e.length;n+=3)yield[e[n],...this.viewport.plateToScreen(e[n+1],e[n+2])]}}nearest([t,e]){let n=[Sx,null];for(let[s,r,a]of this.features()){let o=Math.hypot(r-t,a-e);o<n[0]&&(n=[o,s])}return n[1]===null?[]:[n[1]]}within(t,e){let[n,s]=[Math.min(t[0],e[0]),Math.max(t[0],e[0])],[r,a]=[Math.min(t[1],e[1]),Math.max(t[1],e[1])];return[...this.features()].filter(([,o,l])=>o>=n&&o<=s&&l>=r&&l<=a).map(([o])=>o)}inLoop(t){let e=(n,s)=>t.reduce((r,[a,o],l)=>{let[c,h]=t[(l+1)%t.length];return o>s!=h>s&&n<a+(s-o)/(h-o)*(c-a)?!r:r},!1);return[...this.features()].filter(([,n,s])=>e(n,s)).map(([n])=>n)}};var Mx=["plate","lens","track","solve","orient","proof","deliver"],jf={seek(i){this.frame=Math.min(this.s.plate.last,Math.max(this.s.plate.first,i)),this.lastPicture=this.frames.pictures.get(this.frame)??this.lastPicture,this.frames.ahead(this.frame,this.last,this.first),this.spaceView?.at(this.frame),this.playing||this.askCompared(),this.redraw()},playRate(){let[i,t]=(this.s.state.rate??"24").split("/").map(Number);return i/(t||1)},togglePlay(){if(this.playing=!this.playing,!this.playing)return this.askCompared();let i=this.playRate(),t=performance.now(),e=this.frame,n=[],s=r=>{if(!this.playing)return;let a=e+Math.floor((r-t)/1e3*i);if(a>this.last){if(!this.loop){this.playing=!1;return}[e,t,a]=[this.first,r,this.first]}if(a!==this.frame){for(this.frame+1>this.last||this.frames.has(this.frame+1)||a===this.first?(this.seek(a===this.first?a:this.frame+1),n.push(r),a!==this.frame&&([e,t]=[this.frame,r])):this.frames.ahead(this.frame,this.last,this.first);n.length&&n[0]<r-1500;)n.shift();n.length>4&&(this.rateShown=(n.length-1)*1e3/(n[n.length-1]-n[0]))}requestAnimationFrame(s)};requestAnimationFrame(s)},key(i){if(i.target.matches("input, select, textarea"))return;let t=i.ctrlKey||i.metaKey,e=this.station==="lens";if(e&&i.key.startsWith("Arrow")&&!t&&this.nudgeMark(i)){i.preventDefault();return}if(this.station==="track"&&this.trackPanel==="hands"&&this.chosenHand&&i.altKey&&this.nudgeHand(i)){i.preventDefault();return}let s={" ":()=>this.togglePlay(),ArrowLeft:()=>this.seek(this.frame-(i.shiftKey?10:1)),ArrowRight:()=>this.seek(this.frame+(i.shiftKey?10:1)),Home:()=>this.seek(this.first),End:()=>this.seek(this.last),Delete:()=>e?this.removeChosenMarks():this.selectedCount&&this.setAside(),Enter:()=>e?this.endStraight():this.drawingMatte&&this.closeMatte(),Backspace:()=>e&&this.takeBackMark(),i:()=>this.setIn(),o:()=>this.setOut(),u:()=>this.toggleUndistorted(),g:()=>this.toggleLensGrid(),"?":()=>this.help=!this.help,Escape:()=>(this.help=!1,this.error="",this.chooseStraight(-1,-1),this.dropDrawing(),this.dropMatte(),this.chooseHand(0)),l:()=>this.looping=!this.looping,h:()=>this.toggleHold(),w:()=>this.toWorst(),0:()=>this.fit(),9:()=>this.oneToOne(),v:()=>this.swapSpace()};Mx.forEach((a,o)=>s[String(o+1)]=()=>this.go(a));let r=t?{z:()=>i.shiftKey?this.redo():this.undo(),y:()=>this.redo()}[i.key.toLowerCase()]:s[i.key];r&&(i.preventDefault(),r())}};var Sn={LEFT:0,MIDDLE:1,RIGHT:2,ROTATE:0,DOLLY:1,PAN:2},Mn={ROTATE:0,PAN:1,DOLLY_PAN:2,DOLLY_ROTATE:3},Ap=0,Rh=1,Rp=2;var Hr=1,Cp=2,Bs=3,bn=0,Ge=1,Di=2,Jn=0,zs=1,Ch=2,Ph=3,Ih=4,Pp=5;var jn=100,Ip=101,Lp=102,Dp=103,Np=104,Op=200,Up=201,Fp=202,kp=203,Lh=204,Dh=205,Bp=206,zp=207,Hp=208,Vp=209,Gp=210,Wp=211,Xp=212,qp=213,$p=214,go=0,_o=1,xo=2,Rs=3,yo=4,vo=5,So=6,Mo=7,Nh=0,Yp=1,Zp=2,Ni=0,Oh=1,Uh=2,Fh=3,kh=4,Bh=5,zh=6,Hh=7;var Vh=300,Qn=301,Hs=302,Zo=303,Ko=304,bo=1e3,Ri=1001,wo=1002,Pe=1003,Kp=1004;var Vr=1005;var Ve=1006,Jo=1007;var ji=1008;var ii=1009,Gh=1010,Wh=1011,Vs=1012,jo=1013,_i=1014,xi=1015,yi=1016,Qo=1017,tl=1018,ts=1020,Xh=35902,qh=35899,$h=1021,Yh=1022,vi=1023,Zi=1026,Qi=1027,Zh=1028,el=1029,wn=1030,il=1031;var nl=1033,Gr=33776,Wr=33777,Xr=33778,qr=33779,sl=35840,rl=35841,al=35842,ol=35843,ll=36196,cl=37492,hl=37496,ul=37488,dl=37489,$r=37490,fl=37491,pl=37808,ml=37809,gl=37810,_l=37811,xl=37812,yl=37813,vl=37814,Sl=37815,Ml=37816,bl=37817,wl=37818,El=37819,Tl=37820,Al=37821,Rl=36492,Cl=36494,Pl=36495,Il=36283,Ll=36284,Yr=36285,Dl=36286;var br=2300,Eo=2301,po=2302,Sh=2303,Mh=2400,bh=2401,wh=2402;var Jp=3200;var Kh=0,jp=1,tn="",Je="srgb",wr="srgb-linear",Er="linear",Kt="srgb";var mo=7680;var Qp=519,tm=512,em=513,im=514,Jh=515,nm=516,sm=517,jh=518,Qh=519,rm=35044;var tu="300 es",ci=2e3,Tr=2001;function bx(i){for(let t=i.length-1;t>=0;--t)if(i[t]>=65535)return!0;return!1}function wx(i){return ArrayBuffer.isView(i)&&!(i instanceof DataView)}function Ar(i){return document.createElementNS("http://www.w3.org/1999/xhtml",i)}function am(){let i=Ar("canvas");return i.style.display="block",i}var Qf={},Cs=null;function eu(...i){let t="THREE."+i.shift();Cs?Cs("log",t,...i):console.log(t,...i)}function om(i){let t=i[0];if(typeof t=="string"&&t.startsWith("TSL:")){let e=i[1];e&&e.isStackTrace?i[0]+=" "+e.getLocation():i[1]='Stack trace not available. Enable "THREE.Node.captureStackTrace" to capture stack traces.'}return i}function Et(...i){i=om(i);let t="THREE."+i.shift();if(Cs)Cs("warn",t,...i);else{let e=i[0];e&&e.isStackTrace?console.warn(e.getError(t)):console.warn(t,...i)}}function Ct(...i){i=om(i);let t="THREE."+i.shift();if(Cs)Cs("error",t,...i);else{let e=i[0];e&&e.isStackTrace?console.error(e.getError(t)):console.error(t,...i)}}function vr(...i){let t=i.join(" ");t in Qf||(Qf[t]=!0,Et(...i))}function lm(i,t,e){return new Promise(function(n,s){function r(){switch(i.clientWaitSync(t,i.SYNC_FLUSH_COMMANDS_BIT,0)){case i.WAIT_FAILED:s();break;case i.TIMEOUT_EXPIRED:setTimeout(r,e);break;default:n()}}setTimeout(r,e)})}var cm={[go]:go,[xo]:So,[yo]:yo,[Rs]:vo,[_o]:_o,[So]:xo,[Mo]:Mo,[vo]:Rs},gi=class{addEventListener(t,e){this._listeners===void 0&&(this._listeners={});let n=this._listeners;n[t]===void 0&&(n[t]=[]),n[t].indexOf(e)===-1&&n[t].push(e)}hasEventListener(t,e){let n=this._listeners;return n===void 0?!1:n[t]!==void 0&&n[t].indexOf(e)!==-1}removeEventListener(t,e){let n=this._listeners;if(n===void 0)return;let s=n[t];if(s!==void 0){let r=s.indexOf(e);r!==-1&&s.splice(r,1)}}dispatchEvent(t){let e=this._listeners;if(e===void 0)return;let n=e[t.type];if(n!==void 0){t.target=this;let s=n.slice(0);for(let r=0,a=s.length;r<a;r++)s[r].call(this,t);t.target=null}}},Oe=["00","01","02","03","04","05","06","07","08","09","0a","0b","0c","0d","0e","0f","10","11","12","13","14","15","16","17","18","19","1a","1b","1c","1d","1e","1f","20","21","22","23","24","25","26","27","28","29","2a","2b","2c","2d","2e","2f","30","31","32","33","34","35","36","37","38","39","3a","3b","3c","3d","3e","3f","40","41","42","43","44","45","46","47","48","49","4a","4b","4c","4d","4e","4f","50","51","52","53","54","55","56","57","58","59","5a","5b","5c","5d","5e","5f","60","61","62","63","64","65","66","67","68","69","6a","6b","6c","6d","6e","6f","70","71","72","73","74","75","76","77","78","79","7a","7b","7c","7d","7e","7f","80","81","82","83","84","85","86","87","88","89","8a","8b","8c","8d","8e","8f","90","91","92","93","94","95","96","97","98","99","9a","9b","9c","9d","9e","9f","a0","a1","a2","a3","a4","a5","a6","a7","a8","a9","aa","ab","ac","ad","ae","af","b0","b1","b2","b3","b4","b5","b6","b7","b8","b9","ba","bb","bc","bd","be","bf","c0","c1","c2","c3","c4","c5","c6","c7","c8","c9","ca","cb","cc","cd","ce","cf","d0","d1","d2","d3","d4","d5","d6","d7","d8","d9","da","db","dc","dd","de","df","e0","e1","e2","e3","e4","e5","e6","e7","e8","e9","ea","eb","ec","ed","ee","ef","f0","f1","f2","f3","f4","f5","f6","f7","f8","f9","fa","fb","fc","fd","fe","ff"],tp=1234567,Sr=Math.PI/180,Ps=180/Math.PI;function Gs(){let i=Math.random()*4294967295|0,t=Math.random()*4294967295|0,e=Math.random()*4294967295|0,n=Math.random()*4294967295|0;return(Oe[i&255]+Oe[i>>8&255]+Oe[i>>16&255]+Oe[i>>24&255]+"-"+Oe[t&255]+Oe[t>>8&255]+"-"+Oe[t>>16&15|64]+Oe[t>>24&255]+"-"+Oe[e&63|128]+Oe[e>>8&255]+"-"+Oe[e>>16&255]+Oe[e>>24&255]+Oe[n&255]+Oe[n>>8&255]+Oe[n>>16&255]+Oe[n>>24&255]).toLowerCase()}function zt(i,t,e){return Math.max(t,Math.min(e,i))}function iu(i,t){return(i%t+t)%t}function Ex(i,t,e,n,s){return n+(i-t)*(s-n)/(e-t)}function Tx(i,t,e){return i!==t?(e-i)/(t-i):0}function Mr(i,t,e){return(1-e)*i+e*t}function Ax(i,t,e,n){return Mr(i,t,1-Math.exp(-e*n))}function Rx(i,t=1){return t-Math.abs(iu(i,t*2)-t)}function Cx(i,t,e){return i<=t?0:i>=e?1:(i=(i-t)/(e-t),i*i*(3-2*i))}function Px(i,t,e){return i<=t?0:i>=e?1:(i=(i-t)/(e-t),i*i*i*(i*(i*6-15)+10))}function Ix(i,t){return i+Math.floor(Math.random()*(t-i+1))}function Lx(i,t){return i+Math.random()*(t-i)}function Dx(i){return i*(.5-Math.random())}function Nx(i){i!==void 0&&(tp=i);let t=tp+=1831565813;return t=Math.imul(t^t>>>15,t|1),t^=t+Math.imul(t^t>>>7,t|61),((t^t>>>14)>>>0)/4294967296}function Ox(i){return i*Sr}function Ux(i){return i*Ps}function Fx(i){return i>0&&Number.isInteger(i)&&2**Math.round(Math.log2(i))===i}function kx(i){return Math.pow(2,Math.ceil(Math.log(i)/Math.LN2))}function nu(i){return Math.pow(2,Math.floor(Math.log(i)/Math.LN2))}function Bx(i,t,e,n,s){let r=Math.cos,a=Math.sin,o=r(e/2),l=a(e/2),c=r((t+n)/2),h=a((t+n)/2),d=r((t-n)/2),u=a((t-n)/2),m=r((n-t)/2),g=a((n-t)/2);switch(s){case"XYX":i.set(o*h,l*d,l*u,o*c);break;case"YZY":i.set(l*u,o*h,l*d,o*c);break;case"ZXZ":i.set(l*d,l*u,o*h,o*c);break;case"XZX":i.set(o*h,l*g,l*m,o*c);break;case"YXY":i.set(l*m,o*h,l*g,o*c);break;case"ZYZ":i.set(l*g,l*m,o*h,o*c);break;default:Et("MathUtils: .setQuaternionFromProperEuler() encountered an unknown order: "+s)}}function su(i){switch(i.constructor){case Uint32Array:return 4294967295;case Uint16Array:return 65535;case Uint8Array:case Uint8ClampedArray:return 255;case Int32Array:return 2147483647;case Int16Array:return 32767;case Int8Array:return 127;default:return}}function hm(i,t){if(t.constructor===Float32Array)return i;let e=su(t);if(e===void 0)throw new Error("THREE.MathUtils: Invalid component type.");return Math.max(i/e,-1)}function um(i,t){if(t.constructor===Float32Array)return i;let e=su(t);if(e===void 0)throw new Error("THREE.MathUtils: Invalid component type.");return Math.round(i*e)}var ru={DEG2RAD:Sr,RAD2DEG:Ps,generateUUID:Gs,clamp:zt,euclideanModulo:iu,mapLinear:Ex,inverseLerp:Tx,lerp:Mr,damp:Ax,pingpong:Rx,smoothstep:Cx,smootherstep:Px,randInt:Ix,randFloat:Lx,randFloatSpread:Dx,seededRandom:Nx,degToRad:Ox,radToDeg:Ux,isPowerOfTwo:Fx,ceilPowerOfTwo:kx,floorPowerOfTwo:nu,setQuaternionFromProperEuler:Bx,normalize:um,denormalize:hm},Ot=class{static{this.prototype.isVector2=!0}constructor(t=0,e=0){this.x=t,this.y=e}get width(){return this.x}set width(t){this.x=t}get height(){return this.y}set height(t){this.y=t}set(t,e){return this.x=t,this.y=e,this}setScalar(t){return this.x=t,this.y=t,this}setX(t){return this.x=t,this}setY(t){return this.y=t,this}setComponent(t,e){switch(t){case 0:this.x=e;break;case 1:this.y=e;break;default:throw new Error("THREE.Vector2: index is out of range: "+t)}return this}getComponent(t){switch(t){case 0:return this.x;case 1:return this.y;default:throw new Error("THREE.Vector2: index is out of range: "+t)}}clone(){return new this.constructor(this.x,this.y)}copy(t){return this.x=t.x,this.y=t.y,this}add(t){return this.x+=t.x,this.y+=t.y,this}addScalar(t){return this.x+=t,this.y+=t,this}addVectors(t,e){return this.x=t.x+e.x,this.y=t.y+e.y,this}addScaledVector(t,e){return this.x+=t.x*e,this.y+=t.y*e,this}sub(t){return this.x-=t.x,this.y-=t.y,this}subScalar(t){return this.x-=t,this.y-=t,this}subVectors(t,e){return this.x=t.x-e.x,this.y=t.y-e.y,this}multiply(t){return this.x*=t.x,this.y*=t.y,this}multiplyScalar(t){return this.x*=t,this.y*=t,this}divide(t){return this.x/=t.x,this.y/=t.y,this}divideScalar(t){return this.multiplyScalar(1/t)}applyMatrix3(t){let e=this.x,n=this.y,s=t.elements;return this.x=s[0]*e+s[3]*n+s[6],this.y=s[1]*e+s[4]*n+s[7],this}min(t){return this.x=Math.min(this.x,t.x),this.y=Math.min(this.y,t.y),this}max(t){return this.x=Math.max(this.x,t.x),this.y=Math.max(this.y,t.y),this}clamp(t,e){return this.x=zt(this.x,t.x,e.x),this.y=zt(this.y,t.y,e.y),this}clampScalar(t,e){return this.x=zt(this.x,t,e),this.y=zt(this.y,t,e),this}clampLength(t,e){let n=this.length();return this.divideScalar(n||1).multiplyScalar(zt(n,t,e))}floor(){return this.x=Math.floor(this.x),this.y=Math.floor(this.y),this}ceil(){return this.x=Math.ceil(this.x),this.y=Math.ceil(this.y),this}round(){return this.x=Math.round(this.x),this.y=Math.round(this.y),this}roundToZero(){return this.x=Math.trunc(this.x),this.y=Math.trunc(this.y),this}negate(){return this.x=-this.x,this.y=-this.y,this}dot(t){return this.x*t.x+this.y*t.y}cross(t){return this.x*t.y-this.y*t.x}lengthSq(){return this.x*this.x+this.y*this.y}length(){return Math.sqrt(this.x*this.x+this.y*this.y)}manhattanLength(){return Math.abs(this.x)+Math.abs(this.y)}normalize(){return this.divideScalar(this.length()||1)}angle(){return Math.atan2(-this.y,-this.x)+Math.PI}angleTo(t){let e=Math.sqrt(this.lengthSq()*t.lengthSq());if(e===0)return Math.PI/2;let n=this.dot(t)/e;return Math.acos(zt(n,-1,1))}distanceTo(t){return Math.sqrt(this.distanceToSquared(t))}distanceToSquared(t){let e=this.x-t.x,n=this.y-t.y;return e*e+n*n}manhattanDistanceTo(t){return Math.abs(this.x-t.x)+Math.abs(this.y-t.y)}setLength(t){return this.normalize().multiplyScalar(t)}lerp(t,e){return this.x+=(t.x-this.x)*e,this.y+=(t.y-this.y)*e,this}lerpVectors(t,e,n){return this.x=t.x+(e.x-t.x)*n,this.y=t.y+(e.y-t.y)*n,this}equals(t){return t.x===this.x&&t.y===this.y}fromArray(t,e=0){return this.x=t[e],this.y=t[e+1],this}toArray(t=[],e=0){return t[e]=this.x,t[e+1]=this.y,t}fromBufferAttribute(t,e){return this.x=t.getX(e),this.y=t.getY(e),this}rotateAround(t,e){let n=Math.cos(e),s=Math.sin(e),r=this.x-t.x,a=this.y-t.y;return this.x=r*n-a*s+t.x,this.y=r*s+a*n+t.y,this}random(){return this.x=Math.random(),this.y=Math.random(),this}*[Symbol.iterator](){yield this.x,yield this.y}},Qe=class{constructor(t=0,e=0,n=0,s=1){this.isQuaternion=!0,this._x=t,this._y=e,this._z=n,this._w=s}static slerpFlat(t,e,n,s,r,a,o){let l=n[s+0],c=n[s+1],h=n[s+2],d=n[s+3],u=r[a+0],m=r[a+1],g=r[a+2],_=r[a+3];if(d!==_||l!==u||c!==m||h!==g){let f=l*u+c*m+h*g+d*_;f<0&&(u=-u,m=-m,g=-g,_=-_,f=-f);let p=1-o;if(f<.9995){let S=Math.acos(f),T=Math.sin(S);p=Math.sin(p*S)/T,o=Math.sin(o*S)/T,l=l*p+u*o,c=c*p+m*o,h=h*p+g*o,d=d*p+_*o}else{l=l*p+u*o,c=c*p+m*o,h=h*p+g*o,d=d*p+_*o;let S=1/Math.sqrt(l*l+c*c+h*h+d*d);l*=S,c*=S,h*=S,d*=S}}t[e]=l,t[e+1]=c,t[e+2]=h,t[e+3]=d}static multiplyQuaternionsFlat(t,e,n,s,r,a){let o=n[s],l=n[s+1],c=n[s+2],h=n[s+3],d=r[a],u=r[a+1],m=r[a+2],g=r[a+3];return t[e]=o*g+h*d+l*m-c*u,t[e+1]=l*g+h*u+c*d-o*m,t[e+2]=c*g+h*m+o*u-l*d,t[e+3]=h*g-o*d-l*u-c*m,t}get x(){return this._x}set x(t){this._x=t,this._onChangeCallback()}get y(){return this._y}set y(t){this._y=t,this._onChangeCallback()}get z(){return this._z}set z(t){this._z=t,this._onChangeCallback()}get w(){return this._w}set w(t){this._w=t,this._onChangeCallback()}set(t,e,n,s){return this._x=t,this._y=e,this._z=n,this._w=s,this._onChangeCallback(),this}clone(){return new this.constructor(this._x,this._y,this._z,this._w)}copy(t){return this._x=t.x,this._y=t.y,this._z=t.z,this._w=t.w,this._onChangeCallback(),this}setFromEuler(t,e=!0){let n=t._x,s=t._y,r=t._z,a=t._order,o=Math.cos,l=Math.sin,c=o(n/2),h=o(s/2),d=o(r/2),u=l(n/2),m=l(s/2),g=l(r/2);switch(a){case"XYZ":this._x=u*h*d+c*m*g,this._y=c*m*d-u*h*g,this._z=c*h*g+u*m*d,this._w=c*h*d-u*m*g;break;case"YXZ":this._x=u*h*d+c*m*g,this._y=c*m*d-u*h*g,this._z=c*h*g-u*m*d,this._w=c*h*d+u*m*g;break;case"ZXY":this._x=u*h*d-c*m*g,this._y=c*m*d+u*h*g,this._z=c*h*g+u*m*d,this._w=c*h*d-u*m*g;break;case"ZYX":this._x=u*h*d-c*m*g,this._y=c*m*d+u*h*g,this._z=c*h*g-u*m*d,this._w=c*h*d+u*m*g;break;case"YZX":this._x=u*h*d+c*m*g,this._y=c*m*d+u*h*g,this._z=c*h*g-u*m*d,this._w=c*h*d-u*m*g;break;case"XZY":this._x=u*h*d-c*m*g,this._y=c*m*d-u*h*g,this._z=c*h*g+u*m*d,this._w=c*h*d+u*m*g;break;default:Et("Quaternion: .setFromEuler() encountered an unknown order: "+a)}return e===!0&&this._onChangeCallback(),this}setFromAxisAngle(t,e){let n=e/2,s=Math.sin(n);return this._x=t.x*s,this._y=t.y*s,this._z=t.z*s,this._w=Math.cos(n),this._onChangeCallback(),this}setFromRotationMatrix(t){let e=t.elements,n=e[0],s=e[4],r=e[8],a=e[1],o=e[5],l=e[9],c=e[2],h=e[6],d=e[10],u=n+o+d;if(u>0){let m=.5/Math.sqrt(u+1);this._w=.25/m,this._x=(h-l)*m,this._y=(r-c)*m,this._z=(a-s)*m}else if(n>o&&n>d){let m=2*Math.sqrt(1+n-o-d);this._w=(h-l)/m,this._x=.25*m,this._y=(s+a)/m,this._z=(r+c)/m}else if(o>d){let m=2*Math.sqrt(1+o-n-d);this._w=(r-c)/m,this._x=(s+a)/m,this._y=.25*m,this._z=(l+h)/m}else{let m=2*Math.sqrt(1+d-n-o);this._w=(a-s)/m,this._x=(r+c)/m,this._y=(l+h)/m,this._z=.25*m}return this._onChangeCallback(),this}setFromUnitVectors(t,e){let n=t.dot(e)+1;return n<1e-8?(n=0,Math.abs(t.x)>Math.abs(t.z)?(this._x=-t.y,this._y=t.x,this._z=0,this._w=n):(this._x=0,this._y=-t.z,this._z=t.y,this._w=n)):(this._x=t.y*e.z-t.z*e.y,this._y=t.z*e.x-t.x*e.z,this._z=t.x*e.y-t.y*e.x,this._w=n),this.normalize()}angleTo(t){return 2*Math.acos(Math.abs(zt(this.dot(t),-1,1)))}rotateTowards(t,e){let n=this.angleTo(t);if(n===0)return this;let s=Math.min(1,e/n);return this.slerp(t,s),this}identity(){return this.set(0,0,0,1)}invert(){return this.conjugate()}conjugate(){return this._x*=-1,this._y*=-1,this._z*=-1,this._onChangeCallback(),this}dot(t){return this._x*t._x+this._y*t._y+this._z*t._z+this._w*t._w}lengthSq(){return this._x*this._x+this._y*this._y+this._z*this._z+this._w*this._w}length(){return Math.sqrt(this._x*this._x+this._y*this._y+this._z*this._z+this._w*this._w)}normalize(){let t=this.length();return t===0?(this._x=0,this._y=0,this._z=0,this._w=1):(t=1/t,this._x=this._x*t,this._y=this._y*t,this._z=this._z*t,this._w=this._w*t),this._onChangeCallback(),this}multiply(t){return this.multiplyQuaternions(this,t)}premultiply(t){return this.multiplyQuaternions(t,this)}multiplyQuaternions(t,e){let n=t._x,s=t._y,r=t._z,a=t._w,o=e._x,l=e._y,c=e._z,h=e._w;return this._x=n*h+a*o+s*c-r*l,this._y=s*h+a*l+r*o-n*c,this._z=r*h+a*c+n*l-s*o,this._w=a*h-n*o-s*l-r*c,this._onChangeCallback(),this}slerp(t,e){let n=t._x,s=t._y,r=t._z,a=t._w,o=this.dot(t);o<0&&(n=-n,s=-s,r=-r,a=-a,o=-o);let l=1-e;if(o<.9995){let c=Math.acos(o),h=Math.sin(c);l=Math.sin(l*c)/h,e=Math.sin(e*c)/h,this._x=this._x*l+n*e,this._y=this._y*l+s*e,this._z=this._z*l+r*e,this._w=this._w*l+a*e,this._onChangeCallback()}else this._x=this._x*l+n*e,this._y=this._y*l+s*e,this._z=this._z*l+r*e,this._w=this._w*l+a*e,this.normalize();return this}slerpQuaternions(t,e,n){return this.copy(t).slerp(e,n)}random(){let t=2*Math.PI*Math.random(),e=2*Math.PI*Math.random(),n=Math.random(),s=Math.sqrt(1-n),r=Math.sqrt(n);return this.set(s*Math.sin(t),s*Math.cos(t),r*Math.sin(e),r*Math.cos(e))}equals(t){return t._x===this._x&&t._y===this._y&&t._z===this._z&&t._w===this._w}fromArray(t,e=0){return this._x=t[e],this._y=t[e+1],this._z=t[e+2],this._w=t[e+3],this._onChangeCallback(),this}toArray(t=[],e=0){return t[e]=this._x,t[e+1]=this._y,t[e+2]=this._z,t[e+3]=this._w,t}fromBufferAttribute(t,e){return this._x=t.getX(e),this._y=t.getY(e),this._z=t.getZ(e),this._w=t.getW(e),this._onChangeCallback(),this}toJSON(){return this.toArray()}_onChange(t){return this._onChangeCallback=t,this}_onChangeCallback(){}*[Symbol.iterator](){yield this._x,yield this._y,yield this._z,yield this._w}},N=class{static{this.prototype.isVector3=!0}constructor(t=0,e=0,n=0){this.x=t,this.y=e,this.z=n}set(t,e,n){return n===void 0&&(n=this.z),this.x=t,this.y=e,this.z=n,this}setScalar(t){return this.x=t,this.y=t,this.z=t,this}setX(t){return this.x=t,this}setY(t){return this.y=t,this}setZ(t){return this.z=t,this}setComponent(t,e){switch(t){case 0:this.x=e;break;case 1:this.y=e;break;case 2:this.z=e;break;default:throw new Error("THREE.Vector3: index is out of range: "+t)}return this}getComponent(t){switch(t){case 0:return this.x;case 1:return this.y;case 2:return this.z;default:throw new Error("THREE.Vector3: index is out of range: "+t)}}clone(){return new this.constructor(this.x,this.y,this.z)}copy(t){return this.x=t.x,this.y=t.y,this.z=t.z,this}add(t){return this.x+=t.x,this.y+=t.y,this.z+=t.z,this}addScalar(t){return this.x+=t,this.y+=t,this.z+=t,this}addVectors(t,e){return this.x=t.x+e.x,this.y=t.y+e.y,this.z=t.z+e.z,this}addScaledVector(t,e){return this.x+=t.x*e,this.y+=t.y*e,this.z+=t.z*e,this}sub(t){return this.x-=t.x,this.y-=t.y,this.z-=t.z,this}subScalar(t){return this.x-=t,this.y-=t,this.z-=t,this}subVectors(t,e){return this.x=t.x-e.x,this.y=t.y-e.y,this.z=t.z-e.z,this}multiply(t){return this.x*=t.x,this.y*=t.y,this.z*=t.z,this}multiplyScalar(t){return this.x*=t,this.y*=t,this.z*=t,this}multiplyVectors(t,e){return this.x=t.x*e.x,this.y=t.y*e.y,this.z=t.z*e.z,this}applyEuler(t){return this.applyQuaternion(ep.setFromEuler(t))}applyAxisAngle(t,e){return this.applyQuaternion(ep.setFromAxisAngle(t,e))}applyMatrix3(t){let e=this.x,n=this.y,s=this.z,r=t.elements;return this.x=r[0]*e+r[3]*n+r[6]*s,this.y=r[1]*e+r[4]*n+r[7]*s,this.z=r[2]*e+r[5]*n+r[8]*s,this}applyNormalMatrix(t){return this.applyMatrix3(t).normalize()}applyMatrix4(t){let e=this.x,n=this.y,s=this.z,r=t.elements,a=1/(r[3]*e+r[7]*n+r[11]*s+r[15]);return this.x=(r[0]*e+r[4]*n+r[8]*s+r[12])*a,this.y=(r[1]*e+r[5]*n+r[9]*s+r[13])*a,this.z=(r[2]*e+r[6]*n+r[10]*s+r[14])*a,this}applyQuaternion(t){let e=this.x,n=this.y,s=this.z,r=t.x,a=t.y,o=t.z,l=t.w,c=2*(a*s-o*n),h=2*(o*e-r*s),d=2*(r*n-a*e);return this.x=e+l*c+a*d-o*h,this.y=n+l*h+o*c-r*d,this.z=s+l*d+r*h-a*c,this}project(t){return this.applyMatrix4(t.matrixWorldInverse).applyMatrix4(t.projectionMatrix)}unproject(t){return this.applyMatrix4(t.projectionMatrixInverse).applyMatrix4(t.matrixWorld)}transformDirection(t){let e=this.x,n=this.y,s=this.z,r=t.elements;return this.x=r[0]*e+r[4]*n+r[8]*s,this.y=r[1]*e+r[5]*n+r[9]*s,this.z=r[2]*e+r[6]*n+r[10]*s,this.normalize()}divide(t){return this.x/=t.x,this.y/=t.y,this.z/=t.z,this}divideScalar(t){return this.multiplyScalar(1/t)}min(t){return this.x=Math.min(this.x,t.x),this.y=Math.min(this.y,t.y),this.z=Math.min(this.z,t.z),this}max(t){return this.x=Math.max(this.x,t.x),this.y=Math.max(this.y,t.y),this.z=Math.max(this.z,t.z),this}clamp(t,e){return this.x=zt(this.x,t.x,e.x),this.y=zt(this.y,t.y,e.y),this.z=zt(this.z,t.z,e.z),this}clampScalar(t,e){return this.x=zt(this.x,t,e),this.y=zt(this.y,t,e),this.z=zt(this.z,t,e),this}clampLength(t,e){let n=this.length();return this.divideScalar(n||1).multiplyScalar(zt(n,t,e))}floor(){return this.x=Math.floor(this.x),this.y=Math.floor(this.y),this.z=Math.floor(this.z),this}ceil(){return this.x=Math.ceil(this.x),this.y=Math.ceil(this.y),this.z=Math.ceil(this.z),this}round(){return this.x=Math.round(this.x),this.y=Math.round(this.y),this.z=Math.round(this.z),this}roundToZero(){return this.x=Math.trunc(this.x),this.y=Math.trunc(this.y),this.z=Math.trunc(this.z),this}negate(){return this.x=-this.x,this.y=-this.y,this.z=-this.z,this}dot(t){return this.x*t.x+this.y*t.y+this.z*t.z}lengthSq(){return this.x*this.x+this.y*this.y+this.z*this.z}length(){return Math.sqrt(this.x*this.x+this.y*this.y+this.z*this.z)}manhattanLength(){return Math.abs(this.x)+Math.abs(this.y)+Math.abs(this.z)}normalize(){return this.divideScalar(this.length()||1)}setLength(t){return this.normalize().multiplyScalar(t)}lerp(t,e){return this.x+=(t.x-this.x)*e,this.y+=(t.y-this.y)*e,this.z+=(t.z-this.z)*e,this}lerpVectors(t,e,n){return this.x=t.x+(e.x-t.x)*n,this.y=t.y+(e.y-t.y)*n,this.z=t.z+(e.z-t.z)*n,this}cross(t){return this.crossVectors(this,t)}crossVectors(t,e){let n=t.x,s=t.y,r=t.z,a=e.x,o=e.y,l=e.z;return this.x=s*l-r*o,this.y=r*a-n*l,this.z=n*o-s*a,this}projectOnVector(t){let e=t.lengthSq();if(e===0)return this.set(0,0,0);let n=t.dot(this)/e;return this.copy(t).multiplyScalar(n)}projectOnPlane(t){return eh.copy(this).projectOnVector(t),this.sub(eh)}reflect(t){return this.sub(eh.copy(t).multiplyScalar(2*this.dot(t)))}angleTo(t){let e=Math.sqrt(this.lengthSq()*t.lengthSq());if(e===0)return Math.PI/2;let n=this.dot(t)/e;return Math.acos(zt(n,-1,1))}distanceTo(t){return Math.sqrt(this.distanceToSquared(t))}distanceToSquared(t){let e=this.x-t.x,n=this.y-t.y,s=this.z-t.z;return e*e+n*n+s*s}manhattanDistanceTo(t){return Math.abs(this.x-t.x)+Math.abs(this.y-t.y)+Math.abs(this.z-t.z)}setFromSpherical(t){return this.setFromSphericalCoords(t.radius,t.phi,t.theta)}setFromSphericalCoords(t,e,n){let s=Math.sin(e)*t;return this.x=s*Math.sin(n),this.y=Math.cos(e)*t,this.z=s*Math.cos(n),this}setFromCylindrical(t){return this.setFromCylindricalCoords(t.radius,t.theta,t.y)}setFromCylindricalCoords(t,e,n){return this.x=t*Math.sin(e),this.y=n,this.z=t*Math.cos(e),this}setFromMatrixPosition(t){let e=t.elements;return this.x=e[12],this.y=e[13],this.z=e[14],this}setFromMatrixScale(t){let e=this.setFromMatrixColumn(t,0).length(),n=this.setFromMatrixColumn(t,1).length(),s=this.setFromMatrixColumn(t,2).length();return this.x=e,this.y=n,this.z=s,this}setFromMatrixColumn(t,e){return this.fromArray(t.elements,e*4)}setFromMatrix3Column(t,e){return this.fromArray(t.elements,e*3)}setFromEuler(t){return this.x=t._x,this.y=t._y,this.z=t._z,this}setFromColor(t){return this.x=t.r,this.y=t.g,this.z=t.b,this}equals(t){return t.x===this.x&&t.y===this.y&&t.z===this.z}fromArray(t,e=0){return this.x=t[e],this.y=t[e+1],this.z=t[e+2],this}toArray(t=[],e=0){return t[e]=this.x,t[e+1]=this.y,t[e+2]=this.z,t}fromBufferAttribute(t,e){return this.x=t.getX(e),this.y=t.getY(e),this.z=t.getZ(e),this}random(){return this.x=Math.random(),this.y=Math.random(),this.z=Math.random(),this}randomDirection(){let t=Math.random()*Math.PI*2,e=Math.random()*2-1,n=Math.sqrt(1-e*e);return this.x=n*Math.cos(t),this.y=e,this.z=n*Math.sin(t),this}*[Symbol.iterator](){yield this.x,yield this.y,yield this.z}},eh=new N,ep=new Qe,Pt=class{static{this.prototype.isMatrix3=!0}constructor(t,e,n,s,r,a,o,l,c){this.elements=[1,0,0,0,1,0,0,0,1],t!==void 0&&this.set(t,e,n,s,r,a,o,l,c)}set(t,e,n,s,r,a,o,l,c){let h=this.elements;return h[0]=t,h[1]=s,h[2]=o,h[3]=e,h[4]=r,h[5]=l,h[6]=n,h[7]=a,h[8]=c,this}identity(){return this.set(1,0,0,0,1,0,0,0,1),this}copy(t){let e=this.elements,n=t.elements;return e[0]=n[0],e[1]=n[1],e[2]=n[2],e[3]=n[3],e[4]=n[4],e[5]=n[5],e[6]=n[6],e[7]=n[7],e[8]=n[8],this}extractBasis(t,e,n){return t.setFromMatrix3Column(this,0),e.setFromMatrix3Column(this,1),n.setFromMatrix3Column(this,2),this}setFromMatrix4(t){let e=t.elements;return this.set(e[0],e[4],e[8],e[1],e[5],e[9],e[2],e[6],e[10]),this}multiply(t){return this.multiplyMatrices(this,t)}premultiply(t){return this.multiplyMatrices(t,this)}multiplyMatrices(t,e){let n=t.elements,s=e.elements,r=this.elements,a=n[0],o=n[3],l=n[6],c=n[1],h=n[4],d=n[7],u=n[2],m=n[5],g=n[8],_=s[0],f=s[3],p=s[6],S=s[1],T=s[4],w=s[7],R=s[2],E=s[5],x=s[8];return r[0]=a*_+o*S+l*R,r[3]=a*f+o*T+l*E,r[6]=a*p+o*w+l*x,r[1]=c*_+h*S+d*R,r[4]=c*f+h*T+d*E,r[7]=c*p+h*w+d*x,r[2]=u*_+m*S+g*R,r[5]=u*f+m*T+g*E,r[8]=u*p+m*w+g*x,this}multiplyScalar(t){let e=this.elements;return e[0]*=t,e[3]*=t,e[6]*=t,e[1]*=t,e[4]*=t,e[7]*=t,e[2]*=t,e[5]*=t,e[8]*=t,this}determinant(){let t=this.elements,e=t[0],n=t[1],s=t[2],r=t[3],a=t[4],o=t[5],l=t[6],c=t[7],h=t[8];return e*a*h-e*o*c-n*r*h+n*o*l+s*r*c-s*a*l}invert(){let t=this.elements,e=t[0],n=t[1],s=t[2],r=t[3],a=t[4],o=t[5],l=t[6],c=t[7],h=t[8],d=h*a-o*c,u=o*l-h*r,m=c*r-a*l,g=e*d+n*u+s*m;if(g===0)return this.set(0,0,0,0,0,0,0,0,0);let _=1/g;return t[0]=d*_,t[1]=(s*c-h*n)*_,t[2]=(o*n-s*a)*_,t[3]=u*_,t[4]=(h*e-s*l)*_,t[5]=(s*r-o*e)*_,t[6]=m*_,t[7]=(n*l-c*e)*_,t[8]=(a*e-n*r)*_,this}transpose(){let t,e=this.elements;return t=e[1],e[1]=e[3],e[3]=t,t=e[2],e[2]=e[6],e[6]=t,t=e[5],e[5]=e[7],e[7]=t,this}getNormalMatrix(t){return this.setFromMatrix4(t).invert().transpose()}transposeIntoArray(t){let e=this.elements;return t[0]=e[0],t[1]=e[3],t[2]=e[6],t[3]=e[1],t[4]=e[4],t[5]=e[7],t[6]=e[2],t[7]=e[5],t[8]=e[8],this}setUvTransform(t,e,n,s,r,a,o){let l=Math.cos(r),c=Math.sin(r);return this.set(n*l,n*c,-n*(l*a+c*o)+a+t,-s*c,s*l,-s*(-c*a+l*o)+o+e,0,0,1),this}scale(t,e){return vr("Matrix3: .scale() is deprecated. Use .makeScale() instead."),this.premultiply(ih.makeScale(t,e)),this}rotate(t){return vr("Matrix3: .rotate() is deprecated. Use .makeRotation() instead."),this.premultiply(ih.makeRotation(-t)),this}translate(t,e){return vr("Matrix3: .translate() is deprecated. Use .makeTranslation() instead."),this.premultiply(ih.makeTranslation(t,e)),this}makeTranslation(t,e){return t.isVector2?this.set(1,0,t.x,0,1,t.y,0,0,1):this.set(1,0,t,0,1,e,0,0,1),this}makeRotation(t){let e=Math.cos(t),n=Math.sin(t);return this.set(e,-n,0,n,e,0,0,0,1),this}makeScale(t,e){return this.set(t,0,0,0,e,0,0,0,1),this}equals(t){let e=this.elements,n=t.elements;for(let s=0;s<9;s++)if(e[s]!==n[s])return!1;return!0}fromArray(t,e=0){for(let n=0;n<9;n++)this.elements[n]=t[n+e];return this}toArray(t=[],e=0){let n=this.elements;return t[e]=n[0],t[e+1]=n[1],t[e+2]=n[2],t[e+3]=n[3],t[e+4]=n[4],t[e+5]=n[5],t[e+6]=n[6],t[e+7]=n[7],t[e+8]=n[8],t}clone(){return new this.constructor().fromArray(this.elements)}},ih=new Pt,ip=new Pt().set(.4123908,.3575843,.1804808,.212639,.7151687,.0721923,.0193308,.1191948,.9505322),np=new Pt().set(3.2409699,-1.5373832,-.4986108,-.9692436,1.8759675,.0415551,.0556301,-.203977,1.0569715);function zx(){let i={enabled:!0,workingColorSpace:wr,spaces:{},convert:function(s,r,a){return this.enabled===!1||r===a||!r||!a||(this.spaces[r].transfer===Kt&&(s.r=Yi(s.r),s.g=Yi(s.g),s.b=Yi(s.b)),this.spaces[r].primaries!==this.spaces[a].primaries&&(s.applyMatrix3(this.spaces[r].toXYZ),s.applyMatrix3(this.spaces[a].fromXYZ)),this.spaces[a].transfer===Kt&&(s.r=As(s.r),s.g=As(s.g),s.b=As(s.b))),s},workingToColorSpace:function(s,r){return this.convert(s,this.workingColorSpace,r)},colorSpaceToWorking:function(s,r){return this.convert(s,r,this.workingColorSpace)},getPrimaries:function(s){return this.spaces[s].primaries},getTransfer:function(s){return s===tn?Er:this.spaces[s].transfer},getToneMappingMode:function(s){return this.spaces[s].outputColorSpaceConfig.toneMappingMode||"standard"},getLuminanceCoefficients:function(s,r=this.workingColorSpace){return s.fromArray(this.spaces[r].luminanceCoefficients)},define:function(s){Object.assign(this.spaces,s)},_getMatrix:function(s,r,a){return s.copy(this.spaces[a].fromXYZ).multiply(this.spaces[r].toXYZ)},_getDrawingBufferColorSpace:function(s){return this.spaces[s].outputColorSpaceConfig.drawingBufferColorSpace},_getUnpackColorSpace:function(s=this.workingColorSpace){return this.spaces[s].workingColorSpaceConfig.unpackColorSpace}},t=[.64,.33,.3,.6,.15,.06],e=[.2126,.7152,.0722],n=[.3127,.329];return i.define({[wr]:{primaries:t,whitePoint:n,transfer:Er,toXYZ:ip,fromXYZ:np,luminanceCoefficients:e,workingColorSpaceConfig:{unpackColorSpace:Je},outputColorSpaceConfig:{drawingBufferColorSpace:Je}},[Je]:{primaries:t,whitePoint:n,transfer:Kt,toXYZ:ip,fromXYZ:np,luminanceCoefficients:e,outputColorSpaceConfig:{drawingBufferColorSpace:Je}}}),i}var Xt=zx();function Yi(i){return i<.04045?i*.0773993808:Math.pow(i*.9478672986+.0521327014,2.4)}function As(i){return i<.0031308?i*12.92:1.055*Math.pow(i,.41666)-.055}var ps,To=class{static getDataURL(t,e="image/png"){if(/^data:/i.test(t.src)||typeof HTMLCanvasElement>"u")return t.src;let n;if(t instanceof HTMLCanvasElement)n=t;else{ps===void 0&&(ps=Ar("canvas")),ps.width=t.width,ps.height=t.height;let s=ps.getContext("2d");t instanceof ImageData?s.putImageData(t,0,0):s.drawImage(t,0,0,t.width,t.height),n=ps}return n.toDataURL(e)}static sRGBToLinear(t){if(typeof HTMLImageElement<"u"&&t instanceof HTMLImageElement||typeof HTMLCanvasElement<"u"&&t instanceof HTMLCanvasElement||typeof ImageBitmap<"u"&&t instanceof ImageBitmap){let e=Ar("canvas");e.width=t.width,e.height=t.height;let n=e.getContext("2d");n.drawImage(t,0,0,t.width,t.height);let s=n.getImageData(0,0,t.width,t.height),r=s.data;for(let a=0;a<r.length;a++)r[a]=Yi(r[a]/255)*255;return n.putImageData(s,0,0),e}else if(t.data){let e=t.data.slice(0);for(let n=0;n<e.length;n++)e instanceof Uint8Array||e instanceof Uint8ClampedArray?e[n]=Math.floor(Yi(e[n]/255)*255):e[n]=Yi(e[n]);return{data:e,width:t.width,height:t.height}}else return Et("ImageUtils.sRGBToLinear(): Unsupported image type. No color space conversion applied."),t}},Hx=0,Is=class{constructor(t=null){this.isTextureSource=!0,Object.defineProperty(this,"id",{value:Hx++}),this.uuid=Gs(),this.data=t,this.dataReady=!0,this.version=0}getSize(t){let e=this.data;return typeof HTMLVideoElement<"u"&&e instanceof HTMLVideoElement?t.set(e.videoWidth,e.videoHeight,0):typeof VideoFrame<"u"&&e instanceof VideoFrame?t.set(e.displayWidth,e.displayHeight,0):e!==null?t.set(e.width||0,e.height||0,e.depth||0):t.set(0,0,0),t}set needsUpdate(t){t===!0&&this.version++}toJSON(t){let e=t===void 0||typeof t=="string";if(!e&&t.images[this.uuid]!==void 0)return t.images[this.uuid];let n={uuid:this.uuid,url:""},s=this.data;if(s!==null){let r;if(Array.isArray(s)){r=[];for(let a=0,o=s.length;a<o;a++)s[a].isDataTexture?r.push(nh(s[a].image)):r.push(nh(s[a]))}else r=nh(s);n.url=r}return e||(t.images[this.uuid]=n),n}};function nh(i){return typeof HTMLImageElement<"u"&&i instanceof HTMLImageElement||typeof HTMLCanvasElement<"u"&&i instanceof HTMLCanvasElement||typeof ImageBitmap<"u"&&i instanceof ImageBitmap?To.getDataURL(i):i.data?{data:Array.from(i.data),width:i.width,height:i.height,type:i.data.constructor.name}:(Et("Texture: Unable to serialize Texture."),{})}var Vx=0,sh=new N,qe=class i extends gi{constructor(t=i.DEFAULT_IMAGE,e=i.DEFAULT_MAPPING,n=Ri,s=Ri,r=Ve,a=ji,o=vi,l=ii,c=i.DEFAULT_ANISOTROPY,h=tn){super(),this.isTexture=!0,Object.defineProperty(this,"id",{value:Vx++}),this.uuid=Gs(),this.name="",this.source=new Is(t),this.mipmaps=[],this.mapping=e,this.channel=0,this.wrapS=n,this.wrapT=s,this.magFilter=r,this.minFilter=a,this.anisotropy=c,this.format=o,this.internalFormat=null,this.type=l,this.offset=new Ot(0,0),this.repeat=new Ot(1,1),this.center=new Ot(0,0),this.rotation=0,this.matrixAutoUpdate=!0,this.matrix=new Pt,this.generateMipmaps=!0,this.mipmapsAutoUpdate=!0,this.premultiplyAlpha=!1,this.flipY=!0,this.unpackAlignment=4,this.colorSpace=h,this.userData={},this.updateRanges=[],this.version=0,this.onUpdate=null,this.renderTarget=null,this.isRenderTargetTexture=!1,this.isArrayTexture=!!(t&&t.depth&&t.depth>1),this.pmremVersion=0,this.isPMREMTexture=!1,this.normalized=!1}get width(){return this.source.getSize(sh).x}get height(){return this.source.getSize(sh).y}get depth(){return this.source.getSize(sh).z}get image(){return this.source.data}set image(t){this.source.data=t}updateMatrix(){this.matrix.setUvTransform(this.offset.x,this.offset.y,this.repeat.x,this.repeat.y,this.rotation,this.center.x,this.center.y)}addUpdateRange(t,e){this.updateRanges.push({start:t,count:e})}clearUpdateRanges(){this.updateRanges.length=0}clone(){return new this.constructor().copy(this)}copy(t){return this.name=t.name,this.source=t.source,this.mipmaps=t.mipmaps.slice(0),this.mapping=t.mapping,this.channel=t.channel,this.wrapS=t.wrapS,this.wrapT=t.wrapT,this.magFilter=t.magFilter,this.minFilter=t.minFilter,this.anisotropy=t.anisotropy,this.format=t.format,this.internalFormat=t.internalFormat,this.type=t.type,this.normalized=t.normalized,this.offset.copy(t.offset),this.repeat.copy(t.repeat),this.center.copy(t.center),this.rotation=t.rotation,this.matrixAutoUpdate=t.matrixAutoUpdate,this.matrix.copy(t.matrix),this.generateMipmaps=t.generateMipmaps,this.mipmapsAutoUpdate=t.mipmapsAutoUpdate,this.premultiplyAlpha=t.premultiplyAlpha,this.flipY=t.flipY,this.unpackAlignment=t.unpackAlignment,this.colorSpace=t.colorSpace,this.renderTarget=t.renderTarget,this.isRenderTargetTexture=t.isRenderTargetTexture,this.isPMREMTexture=t.isPMREMTexture,this.isArrayTexture=t.isArrayTexture,this.userData=JSON.parse(JSON.stringify(t.userData)),this.needsUpdate=!0,this}setValues(t){for(let e in t){let n=t[e];if(n===void 0){Et(`Texture.setValues(): parameter '${e}' has value of undefined.`);continue}let s=this[e];if(s===void 0){Et(`Texture.setValues(): property '${e}' does not exist.`);continue}s&&n&&s.isVector2&&n.isVector2||s&&n&&s.isVector3&&n.isVector3||s&&n&&s.isMatrix3&&n.isMatrix3?s.copy(n):this[e]=n}}toJSON(t){let e=t===void 0||typeof t=="string";if(!e&&t.textures[this.uuid]!==void 0)return t.textures[this.uuid];let n={metadata:{version:4.7,type:"Texture",generator:"Texture.toJSON"},uuid:this.uuid,name:this.name,image:this.source.toJSON(t).uuid,mapping:this.mapping,channel:this.channel,repeat:[this.repeat.x,this.repeat.y],offset:[this.offset.x,this.offset.y],center:[this.center.x,this.center.y],rotation:this.rotation,wrap:[this.wrapS,this.wrapT],format:this.format,internalFormat:this.internalFormat,type:this.type,normalized:this.normalized,colorSpace:this.colorSpace,minFilter:this.minFilter,magFilter:this.magFilter,anisotropy:this.anisotropy,flipY:this.flipY,generateMipmaps:this.generateMipmaps,mipmapsAutoUpdate:this.mipmapsAutoUpdate,premultiplyAlpha:this.premultiplyAlpha,unpackAlignment:this.unpackAlignment};return Object.keys(this.userData).length>0&&(n.userData=this.userData),e||(t.textures[this.uuid]=n),n}dispose(){this.dispatchEvent({type:"dispose"})}transformUv(t){if(this.mapping!==Vh)return t;if(t.applyMatrix3(this.matrix),t.x<0||t.x>1)switch(this.wrapS){case bo:t.x=t.x-Math.floor(t.x);break;case Ri:t.x=t.x<0?0:1;break;case wo:Math.abs(Math.floor(t.x)%2)===1?t.x=Math.ceil(t.x)-t.x:t.x=t.x-Math.floor(t.x);break}if(t.y<0||t.y>1)switch(this.wrapT){case bo:t.y=t.y-Math.floor(t.y);break;case Ri:t.y=t.y<0?0:1;break;case wo:Math.abs(Math.floor(t.y)%2)===1?t.y=Math.ceil(t.y)-t.y:t.y=t.y-Math.floor(t.y);break}return this.flipY&&(t.y=1-t.y),t}set needsUpdate(t){t===!0&&(this.version++,this.source.needsUpdate=!0)}set needsPMREMUpdate(t){t===!0&&this.pmremVersion++}};qe.DEFAULT_IMAGE=null;qe.DEFAULT_MAPPING=Vh;qe.DEFAULT_ANISOTROPY=1;var ue=class{static{this.prototype.isVector4=!0}constructor(t=0,e=0,n=0,s=1){this.x=t,this.y=e,this.z=n,this.w=s}get width(){return this.z}set width(t){this.z=t}get height(){return this.w}set height(t){this.w=t}set(t,e,n,s){return this.x=t,this.y=e,this.z=n,this.w=s,this}setScalar(t){return this.x=t,this.y=t,this.z=t,this.w=t,this}setX(t){return this.x=t,this}setY(t){return this.y=t,this}setZ(t){return this.z=t,this}setW(t){return this.w=t,this}setComponent(t,e){switch(t){case 0:this.x=e;break;case 1:this.y=e;break;case 2:this.z=e;break;case 3:this.w=e;break;default:throw new Error("THREE.Vector4: index is out of range: "+t)}return this}getComponent(t){switch(t){case 0:return this.x;case 1:return this.y;case 2:return this.z;case 3:return this.w;default:throw new Error("THREE.Vector4: index is out of range: "+t)}}clone(){return new this.constructor(this.x,this.y,this.z,this.w)}copy(t){return this.x=t.x,this.y=t.y,this.z=t.z,this.w=t.w!==void 0?t.w:1,this}add(t){return this.x+=t.x,this.y+=t.y,this.z+=t.z,this.w+=t.w,this}addScalar(t){return this.x+=t,this.y+=t,this.z+=t,this.w+=t,this}addVectors(t,e){return this.x=t.x+e.x,this.y=t.y+e.y,this.z=t.z+e.z,this.w=t.w+e.w,this}addScaledVector(t,e){return this.x+=t.x*e,this.y+=t.y*e,this.z+=t.z*e,this.w+=t.w*e,this}sub(t){return this.x-=t.x,this.y-=t.y,this.z-=t.z,this.w-=t.w,this}subScalar(t){return this.x-=t,this.y-=t,this.z-=t,this.w-=t,this}subVectors(t,e){return this.x=t.x-e.x,this.y=t.y-e.y,this.z=t.z-e.z,this.w=t.w-e.w,this}multiply(t){return this.x*=t.x,this.y*=t.y,this.z*=t.z,this.w*=t.w,this}multiplyScalar(t){return this.x*=t,this.y*=t,this.z*=t,this.w*=t,this}applyMatrix4(t){let e=this.x,n=this.y,s=this.z,r=this.w,a=t.elements;return this.x=a[0]*e+a[4]*n+a[8]*s+a[12]*r,this.y=a[1]*e+a[5]*n+a[9]*s+a[13]*r,this.z=a[2]*e+a[6]*n+a[10]*s+a[14]*r,this.w=a[3]*e+a[7]*n+a[11]*s+a[15]*r,this}divide(t){return this.x/=t.x,this.y/=t.y,this.z/=t.z,this.w/=t.w,this}divideScalar(t){return this.multiplyScalar(1/t)}setAxisAngleFromQuaternion(t){this.w=2*Math.acos(t.w);let e=Math.sqrt(1-t.w*t.w);return e<1e-4?(this.x=1,this.y=0,this.z=0):(this.x=t.x/e,this.y=t.y/e,this.z=t.z/e),this}setAxisAngleFromRotationMatrix(t){let e,n,s,r,l=t.elements,c=l[0],h=l[4],d=l[8],u=l[1],m=l[5],g=l[9],_=l[2],f=l[6],p=l[10];if(Math.abs(h-u)<.01&&Math.abs(d-_)<.01&&Math.abs(g-f)<.01){if(Math.abs(h+u)<.1&&Math.abs(d+_)<.1&&Math.abs(g+f)<.1&&Math.abs(c+m+p-3)<.1)return this.set(1,0,0,0),this;e=Math.PI;let T=(c+1)/2,w=(m+1)/2,R=(p+1)/2,E=(h+u)/4,x=(d+_)/4,b=(g+f)/4;return T>w&&T>R?T<.01?(n=0,s=.707106781,r=.707106781):(n=Math.sqrt(T),s=E/n,r=x/n):w>R?w<.01?(n=.707106781,s=0,r=.707106781):(s=Math.sqrt(w),n=E/s,r=b/s):R<.01?(n=.707106781,s=.707106781,r=0):(r=Math.sqrt(R),n=x/r,s=b/r),this.set(n,s,r,e),this}let S=Math.sqrt((f-g)*(f-g)+(d-_)*(d-_)+(u-h)*(u-h));return Math.abs(S)<.001&&(S=1),this.x=(f-g)/S,this.y=(d-_)/S,this.z=(u-h)/S,this.w=Math.acos((c+m+p-1)/2),this}setFromMatrixPosition(t){let e=t.elements;return this.x=e[12],this.y=e[13],this.z=e[14],this.w=e[15],this}min(t){return this.x=Math.min(this.x,t.x),this.y=Math.min(this.y,t.y),this.z=Math.min(this.z,t.z),this.w=Math.min(this.w,t.w),this}max(t){return this.x=Math.max(this.x,t.x),this.y=Math.max(this.y,t.y),this.z=Math.max(this.z,t.z),this.w=Math.max(this.w,t.w),this}clamp(t,e){return this.x=zt(this.x,t.x,e.x),this.y=zt(this.y,t.y,e.y),this.z=zt(this.z,t.z,e.z),this.w=zt(this.w,t.w,e.w),this}clampScalar(t,e){return this.x=zt(this.x,t,e),this.y=zt(this.y,t,e),this.z=zt(this.z,t,e),this.w=zt(this.w,t,e),this}clampLength(t,e){let n=this.length();return this.divideScalar(n||1).multiplyScalar(zt(n,t,e))}floor(){return this.x=Math.floor(this.x),this.y=Math.floor(this.y),this.z=Math.floor(this.z),this.w=Math.floor(this.w),this}ceil(){return this.x=Math.ceil(this.x),this.y=Math.ceil(this.y),this.z=Math.ceil(this.z),this.w=Math.ceil(this.w),this}round(){return this.x=Math.round(this.x),this.y=Math.round(this.y),this.z=Math.round(this.z),this.w=Math.round(this.w),this}roundToZero(){return this.x=Math.trunc(this.x),this.y=Math.trunc(this.y),this.z=Math.trunc(this.z),this.w=Math.trunc(this.w),this}negate(){return this.x=-this.x,this.y=-this.y,this.z=-this.z,this.w=-this.w,this}dot(t){return this.x*t.x+this.y*t.y+this.z*t.z+this.w*t.w}lengthSq(){return this.x*this.x+this.y*this.y+this.z*this.z+this.w*this.w}length(){return Math.sqrt(this.x*this.x+this.y*this.y+this.z*this.z+this.w*this.w)}manhattanLength(){return Math.abs(this.x)+Math.abs(this.y)+Math.abs(this.z)+Math.abs(this.w)}normalize(){return this.divideScalar(this.length()||1)}setLength(t){return this.normalize().multiplyScalar(t)}lerp(t,e){return this.x+=(t.x-this.x)*e,this.y+=(t.y-this.y)*e,this.z+=(t.z-this.z)*e,this.w+=(t.w-this.w)*e,this}lerpVectors(t,e,n){return this.x=t.x+(e.x-t.x)*n,this.y=t.y+(e.y-t.y)*n,this.z=t.z+(e.z-t.z)*n,this.w=t.w+(e.w-t.w)*n,this}equals(t){return t.x===this.x&&t.y===this.y&&t.z===this.z&&t.w===this.w}fromArray(t,e=0){return this.x=t[e],this.y=t[e+1],this.z=t[e+2],this.w=t[e+3],this}toArray(t=[],e=0){return t[e]=this.x,t[e+1]=this.y,t[e+2]=this.z,t[e+3]=this.w,t}fromBufferAttribute(t,e){return this.x=t.getX(e),this.y=t.getY(e),this.z=t.getZ(e),this.w=t.getW(e),this}random(){return this.x=Math.random(),this.y=Math.random(),this.z=Math.random(),this.w=Math.random(),this}*[Symbol.iterator](){yield this.x,yield this.y,yield this.z,yield this.w}},Ao=class extends gi{constructor(t=1,e=1,n={}){super(),n=Object.assign({generateMipmaps:!1,internalFormat:null,minFilter:Ve,depthBuffer:!0,stencilBuffer:!1,resolveColorBuffer:!0,resolveDepthBuffer:!0,resolveStencilBuffer:!0,storeMultisampledColorBuffer:!0,storeMultisampledDepthBuffer:!0,storeMultisampledStencilBuffer:!0,depthTexture:null,samples:0,count:1,depth:1,multiview:!1,useArrayDepthTexture:!1},n),this.isRenderTarget=!0,this.width=t,this.height=e,this.depth=n.depth,this.scissor=new ue(0,0,t,e),this.scissorTest=!1,this.viewport=new ue(0,0,t,e),this.textures=[];let s=n.count;for(let r=0;r<s;r++)this.textures[r]=new qe({width:t,height:e,depth:n.depth}),this.textures[r].isRenderTargetTexture=!0,this.textures[r].renderTarget=this;this._setTextureOptions(n),this.depthBuffer=n.depthBuffer,this.stencilBuffer=n.stencilBuffer,this.resolveColorBuffer=n.resolveColorBuffer,this.resolveDepthBuffer=n.resolveDepthBuffer,this.resolveStencilBuffer=n.resolveStencilBuffer,this.storeMultisampledColorBuffer=n.storeMultisampledColorBuffer,this.storeMultisampledDepthBuffer=n.storeMultisampledDepthBuffer,this.storeMultisampledStencilBuffer=n.storeMultisampledStencilBuffer,this._depthTexture=null,this.depthTexture=n.depthTexture,this.samples=n.samples,this.multiview=n.multiview,this.useArrayDepthTexture=n.useArrayDepthTexture}_setTextureOptions(t={}){let e={minFilter:Ve,generateMipmaps:!1,flipY:!1,internalFormat:null};t.mapping!==void 0&&(e.mapping=t.mapping),t.wrapS!==void 0&&(e.wrapS=t.wrapS),t.wrapT!==void 0&&(e.wrapT=t.wrapT),t.wrapR!==void 0&&(e.wrapR=t.wrapR),t.magFilter!==void 0&&(e.magFilter=t.magFilter),t.minFilter!==void 0&&(e.minFilter=t.minFilter),t.format!==void 0&&(e.format=t.format),t.type!==void 0&&(e.type=t.type),t.anisotropy!==void 0&&(e.anisotropy=t.anisotropy),t.colorSpace!==void 0&&(e.colorSpace=t.colorSpace),t.flipY!==void 0&&(e.flipY=t.flipY),t.generateMipmaps!==void 0&&(e.generateMipmaps=t.generateMipmaps),t.mipmapsAutoUpdate!==void 0&&(e.mipmapsAutoUpdate=t.mipmapsAutoUpdate),t.internalFormat!==void 0&&(e.internalFormat=t.internalFormat);for(let n=0;n<this.textures.length;n++)this.textures[n].setValues(e)}get texture(){return this.textures[0]}set texture(t){this.textures[0]=t}set depthTexture(t){this._depthTexture!==null&&this._depthTexture.renderTarget===this&&(this._depthTexture.renderTarget=null),t!==null&&t.renderTarget===null&&(t.renderTarget=this),this._depthTexture=t}get depthTexture(){return this._depthTexture}setSize(t,e,n=1){if(this.width!==t||this.height!==e||this.depth!==n){this.width=t,this.height=e,this.depth=n;for(let s=0,r=this.textures.length;s<r;s++)this.textures[s].image.width=t,this.textures[s].image.height=e,this.textures[s].image.depth=n,this.textures[s].isData3DTexture!==!0&&(this.textures[s].isArrayTexture=this.textures[s].image.depth>1);this.dispose()}this.viewport.set(0,0,t,e),this.scissor.set(0,0,t,e)}clone(){return new this.constructor().copy(this)}copy(t){this.width=t.width,this.height=t.height,this.depth=t.depth,this.scissor.copy(t.scissor),this.scissorTest=t.scissorTest,this.viewport.copy(t.viewport),this.textures.length=0;for(let e=0,n=t.textures.length;e<n;e++){this.textures[e]=t.textures[e].clone(),this.textures[e].isRenderTargetTexture=!0,this.textures[e].renderTarget=this;let s=Object.assign({},t.textures[e].image);this.textures[e].source=new Is(s)}if(this.depthBuffer=t.depthBuffer,this.stencilBuffer=t.stencilBuffer,this.resolveColorBuffer=t.resolveColorBuffer,this.resolveDepthBuffer=t.resolveDepthBuffer,this.resolveStencilBuffer=t.resolveStencilBuffer,this.storeMultisampledColorBuffer=t.storeMultisampledColorBuffer,this.storeMultisampledDepthBuffer=t.storeMultisampledDepthBuffer,this.storeMultisampledStencilBuffer=t.storeMultisampledStencilBuffer,t.depthTexture!==null)if(t.depthTexture.renderTarget===t){let e=t.depthTexture.clone();e.renderTarget=null,this.depthTexture=e}else this.depthTexture=t.depthTexture;else this.depthTexture=null;return this.samples=t.samples,this.multiview=t.multiview,this.useArrayDepthTexture=t.useArrayDepthTexture,this}dispose(){this.dispatchEvent({type:"dispose"})}},ti=class extends Ao{constructor(t=1,e=1,n={}){super(t,e,n),this.isWebGLRenderTarget=!0}},Rr=class extends qe{constructor(t=null,e=1,n=1,s=1){super(null),this.isDataArrayTexture=!0,this.image={data:t,width:e,height:n,depth:s},this.magFilter=Pe,this.minFilter=Pe,this.wrapR=Ri,this.generateMipmaps=!1,this.flipY=!1,this.unpackAlignment=1,this.layerUpdates=new Set}copy(t){return super.copy(t),this.wrapR=t.wrapR,this}addLayerUpdate(t){this.layerUpdates.add(t)}clearLayerUpdates(){this.layerUpdates.clear()}};var Ro=class extends qe{constructor(t=null,e=1,n=1,s=1){super(null),this.isData3DTexture=!0,this.image={data:t,width:e,height:n,depth:s},this.magFilter=Pe,this.minFilter=Pe,this.wrapR=Ri,this.generateMipmaps=!1,this.flipY=!1,this.unpackAlignment=1}copy(t){return super.copy(t),this.wrapR=t.wrapR,this}};var se=class i{static{this.prototype.isMatrix4=!0}constructor(t,e,n,s,r,a,o,l,c,h,d,u,m,g,_,f){this.elements=[1,0,0,0,0,1,0,0,0,0,1,0,0,0,0,1],t!==void 0&&this.set(t,e,n,s,r,a,o,l,c,h,d,u,m,g,_,f)}set(t,e,n,s,r,a,o,l,c,h,d,u,m,g,_,f){let p=this.elements;return p[0]=t,p[4]=e,p[8]=n,p[12]=s,p[1]=r,p[5]=a,p[9]=o,p[13]=l,p[2]=c,p[6]=h,p[10]=d,p[14]=u,p[3]=m,p[7]=g,p[11]=_,p[15]=f,this}identity(){return this.set(1,0,0,0,0,1,0,0,0,0,1,0,0,0,0,1),this}clone(){return new i().fromArray(this.elements)}copy(t){let e=this.elements,n=t.elements;return e[0]=n[0],e[1]=n[1],e[2]=n[2],e[3]=n[3],e[4]=n[4],e[5]=n[5],e[6]=n[6],e[7]=n[7],e[8]=n[8],e[9]=n[9],e[10]=n[10],e[11]=n[11],e[12]=n[12],e[13]=n[13],e[14]=n[14],e[15]=n[15],this}copyPosition(t){let e=this.elements,n=t.elements;return e[12]=n[12],e[13]=n[13],e[14]=n[14],this}setFromMatrix3(t){let e=t.elements;return this.set(e[0],e[3],e[6],0,e[1],e[4],e[7],0,e[2],e[5],e[8],0,0,0,0,1),this}extractBasis(t,e,n){return this.determinantAffine()===0?(t.set(1,0,0),e.set(0,1,0),n.set(0,0,1),this):(t.setFromMatrixColumn(this,0),e.setFromMatrixColumn(this,1),n.setFromMatrixColumn(this,2),this)}makeBasis(t,e,n){return this.set(t.x,e.x,n.x,0,t.y,e.y,n.y,0,t.z,e.z,n.z,0,0,0,0,1),this}extractRotation(t){if(t.determinantAffine()===0)return this.identity();let e=this.elements,n=t.elements,s=1/ms.setFromMatrixColumn(t,0).length(),r=1/ms.setFromMatrixColumn(t,1).length(),a=1/ms.setFromMatrixColumn(t,2).length();return e[0]=n[0]*s,e[1]=n[1]*s,e[2]=n[2]*s,e[3]=0,e[4]=n[4]*r,e[5]=n[5]*r,e[6]=n[6]*r,e[7]=0,e[8]=n[8]*a,e[9]=n[9]*a,e[10]=n[10]*a,e[11]=0,e[12]=0,e[13]=0,e[14]=0,e[15]=1,this}makeRotationFromEuler(t){let e=this.elements,n=t.x,s=t.y,r=t.z,a=Math.cos(n),o=Math.sin(n),l=Math.cos(s),c=Math.sin(s),h=Math.cos(r),d=Math.sin(r);if(t.order==="XYZ"){let u=a*h,m=a*d,g=o*h,_=o*d;e[0]=l*h,e[4]=-l*d,e[8]=c,e[1]=m+g*c,e[5]=u-_*c,e[9]=-o*l,e[2]=_-u*c,e[6]=g+m*c,e[10]=a*l}else if(t.order==="YXZ"){let u=l*h,m=l*d,g=c*h,_=c*d;e[0]=u+_*o,e[4]=g*o-m,e[8]=a*c,e[1]=a*d,e[5]=a*h,e[9]=-o,e[2]=m*o-g,e[6]=_+u*o,e[10]=a*l}else if(t.order==="ZXY"){let u=l*h,m=l*d,g=c*h,_=c*d;e[0]=u-_*o,e[4]=-a*d,e[8]=g+m*o,e[1]=m+g*o,e[5]=a*h,e[9]=_-u*o,e[2]=-a*c,e[6]=o,e[10]=a*l}else if(t.order==="ZYX"){let u=a*h,m=a*d,g=o*h,_=o*d;e[0]=l*h,e[4]=g*c-m,e[8]=u*c+_,e[1]=l*d,e[5]=_*c+u,e[9]=m*c-g,e[2]=-c,e[6]=o*l,e[10]=a*l}else if(t.order==="YZX"){let u=a*l,m=a*c,g=o*l,_=o*c;e[0]=l*h,e[4]=_-u*d,e[8]=g*d+m,e[1]=d,e[5]=a*h,e[9]=-o*h,e[2]=-c*h,e[6]=m*d+g,e[10]=u-_*d}else if(t.order==="XZY"){let u=a*l,m=a*c,g=o*l,_=o*c;e[0]=l*h,e[4]=-d,e[8]=c*h,e[1]=u*d+_,e[5]=a*h,e[9]=m*d-g,e[2]=g*d-m,e[6]=o*h,e[10]=_*d+u}return e[3]=0,e[7]=0,e[11]=0,e[12]=0,e[13]=0,e[14]=0,e[15]=1,this}makeRotationFromQuaternion(t){return this.compose(Gx,t,Wx)}lookAt(t,e,n){let s=this.elements;return Ze.subVectors(t,e),Ze.lengthSq()===0&&(Ze.z=1),Ze.normalize(),on.crossVectors(n,Ze),on.lengthSq()===0&&(Math.abs(n.z)===1?Ze.x+=1e-4:Ze.z+=1e-4,Ze.normalize(),on.crossVectors(n,Ze)),on.normalize(),Ga.crossVectors(Ze,on),s[0]=on.x,s[4]=Ga.x,s[8]=Ze.x,s[1]=on.y,s[5]=Ga.y,s[9]=Ze.y,s[2]=on.z,s[6]=Ga.z,s[10]=Ze.z,this}multiply(t){return this.multiplyMatrices(this,t)}premultiply(t){return this.multiplyMatrices(t,this)}multiplyMatrices(t,e){let n=t.elements,s=e.elements,r=this.elements,a=n[0],o=n[4],l=n[8],c=n[12],h=n[1],d=n[5],u=n[9],m=n[13],g=n[2],_=n[6],f=n[10],p=n[14],S=n[3],T=n[7],w=n[11],R=n[15],E=s[0],x=s[4],b=s[8],k=s[12],I=s[1],D=s[5],z=s[9],q=s[13],P=s[2],W=s[6],K=s[10],H=s[14],et=s[3],G=s[7],j=s[11],Q=s[15];return r[0]=a*E+o*I+l*P+c*et,r[4]=a*x+o*D+l*W+c*G,r[8]=a*b+o*z+l*K+c*j,r[12]=a*k+o*q+l*H+c*Q,r[1]=h*E+d*I+u*P+m*et,r[5]=h*x+d*D+u*W+m*G,r[9]=h*b+d*z+u*K+m*j,r[13]=h*k+d*q+u*H+m*Q,r[2]=g*E+_*I+f*P+p*et,r[6]=g*x+_*D+f*W+p*G,r[10]=g*b+_*z+f*K+p*j,r[14]=g*k+_*q+f*H+p*Q,r[3]=S*E+T*I+w*P+R*et,r[7]=S*x+T*D+w*W+R*G,r[11]=S*b+T*z+w*K+R*j,r[15]=S*k+T*q+w*H+R*Q,this}multiplyScalar(t){let e=this.elements;return e[0]*=t,e[4]*=t,e[8]*=t,e[12]*=t,e[1]*=t,e[5]*=t,e[9]*=t,e[13]*=t,e[2]*=t,e[6]*=t,e[10]*=t,e[14]*=t,e[3]*=t,e[7]*=t,e[11]*=t,e[15]*=t,this}determinant(){let t=this.elements,e=t[0],n=t[4],s=t[8],r=t[12],a=t[1],o=t[5],l=t[9],c=t[13],h=t[2],d=t[6],u=t[10],m=t[14],g=t[3],_=t[7],f=t[11],p=t[15],S=l*m-c*u,T=o*m-c*d,w=o*u-l*d,R=a*m-c*h,E=a*u-l*h,x=a*d-o*h;return e*(_*S-f*T+p*w)-n*(g*S-f*R+p*E)+s*(g*T-_*R+p*x)-r*(g*w-_*E+f*x)}determinantAffine(){let t=this.elements,e=t[0],n=t[4],s=t[8],r=t[1],a=t[5],o=t[9],l=t[2],c=t[6],h=t[10];return e*(a*h-o*c)-n*(r*h-o*l)+s*(r*c-a*l)}transpose(){let t=this.elements,e;return e=t[1],t[1]=t[4],t[4]=e,e=t[2],t[2]=t[8],t[8]=e,e=t[6],t[6]=t[9],t[9]=e,e=t[3],t[3]=t[12],t[12]=e,e=t[7],t[7]=t[13],t[13]=e,e=t[11],t[11]=t[14],t[14]=e,this}setPosition(t,e,n){let s=this.elements;return t.isVector3?(s[12]=t.x,s[13]=t.y,s[14]=t.z):(s[12]=t,s[13]=e,s[14]=n),this}invert(){let t=this.elements,e=t[0],n=t[1],s=t[2],r=t[3],a=t[4],o=t[5],l=t[6],c=t[7],h=t[8],d=t[9],u=t[10],m=t[11],g=t[12],_=t[13],f=t[14],p=t[15],S=e*o-n*a,T=e*l-s*a,w=e*c-r*a,R=n*l-s*o,E=n*c-r*o,x=s*c-r*l,b=h*_-d*g,k=h*f-u*g,I=h*p-m*g,D=d*f-u*_,z=d*p-m*_,q=u*p-m*f,P=S*q-T*z+w*D+R*I-E*k+x*b;if(P===0)return this.set(0,0,0,0,0,0,0,0,0,0,0,0,0,0,0,0);let W=1/P;return t[0]=(o*q-l*z+c*D)*W,t[1]=(s*z-n*q-r*D)*W,t[2]=(_*x-f*E+p*R)*W,t[3]=(u*E-d*x-m*R)*W,t[4]=(l*I-a*q-c*k)*W,t[5]=(e*q-s*I+r*k)*W,t[6]=(f*w-g*x-p*T)*W,t[7]=(h*x-u*w+m*T)*W,t[8]=(a*z-o*I+c*b)*W,t[9]=(n*I-e*z-r*b)*W,t[10]=(g*E-_*w+p*S)*W,t[11]=(d*w-h*E-m*S)*W,t[12]=(o*k-a*D-l*b)*W,t[13]=(e*D-n*k+s*b)*W,t[14]=(_*T-g*R-f*S)*W,t[15]=(h*R-d*T+u*S)*W,this}scale(t){let e=this.elements,n=t.x,s=t.y,r=t.z;return e[0]*=n,e[4]*=s,e[8]*=r,e[1]*=n,e[5]*=s,e[9]*=r,e[2]*=n,e[6]*=s,e[10]*=r,e[3]*=n,e[7]*=s,e[11]*=r,this}getMaxScaleOnAxis(){let t=this.elements,e=t[0]*t[0]+t[1]*t[1]+t[2]*t[2],n=t[4]*t[4]+t[5]*t[5]+t[6]*t[6],s=t[8]*t[8]+t[9]*t[9]+t[10]*t[10];return Math.sqrt(Math.max(e,n,s))}makeTranslation(t,e,n){return t.isVector3?this.set(1,0,0,t.x,0,1,0,t.y,0,0,1,t.z,0,0,0,1):this.set(1,0,0,t,0,1,0,e,0,0,1,n,0,0,0,1),this}makeRotationX(t){let e=Math.cos(t),n=Math.sin(t);return this.set(1,0,0,0,0,e,-n,0,0,n,e,0,0,0,0,1),this}makeRotationY(t){let e=Math.cos(t),n=Math.sin(t);return this.set(e,0,n,0,0,1,0,0,-n,0,e,0,0,0,0,1),this}makeRotationZ(t){let e=Math.cos(t),n=Math.sin(t);return this.set(e,-n,0,0,n,e,0,0,0,0,1,0,0,0,0,1),this}makeRotationAxis(t,e){let n=Math.cos(e),s=Math.sin(e),r=1-n,a=t.x,o=t.y,l=t.z,c=r*a,h=r*o;return this.set(c*a+n,c*o-s*l,c*l+s*o,0,c*o+s*l,h*o+n,h*l-s*a,0,c*l-s*o,h*l+s*a,r*l*l+n,0,0,0,0,1),this}makeScale(t,e,n){return this.set(t,0,0,0,0,e,0,0,0,0,n,0,0,0,0,1),this}makeShear(t,e,n,s,r,a){return this.set(1,n,r,0,t,1,a,0,e,s,1,0,0,0,0,1),this}compose(t,e,n){let s=this.elements,r=e._x,a=e._y,o=e._z,l=e._w,c=r+r,h=a+a,d=o+o,u=r*c,m=r*h,g=r*d,_=a*h,f=a*d,p=o*d,S=l*c,T=l*h,w=l*d,R=n.x,E=n.y,x=n.z;return s[0]=(1-(_+p))*R,s[1]=(m+w)*R,s[2]=(g-T)*R,s[3]=0,s[4]=(m-w)*E,s[5]=(1-(u+p))*E,s[6]=(f+S)*E,s[7]=0,s[8]=(g+T)*x,s[9]=(f-S)*x,s[10]=(1-(u+_))*x,s[11]=0,s[12]=t.x,s[13]=t.y,s[14]=t.z,s[15]=1,this}decompose(t,e,n){let s=this.elements;t.x=s[12],t.y=s[13],t.z=s[14];let r=this.determinantAffine();if(r===0)return n.set(1,1,1),e.identity(),this;let a=ms.set(s[0],s[1],s[2]).length(),o=ms.set(s[4],s[5],s[6]).length(),l=ms.set(s[8],s[9],s[10]).length();r<0&&(a=-a),fi.copy(this);let c=1/a,h=1/o,d=1/l;return fi.elements[0]*=c,fi.elements[1]*=c,fi.elements[2]*=c,fi.elements[4]*=h,fi.elements[5]*=h,fi.elements[6]*=h,fi.elements[8]*=d,fi.elements[9]*=d,fi.elements[10]*=d,e.setFromRotationMatrix(fi),n.x=a,n.y=o,n.z=l,this}makePerspective(t,e,n,s,r,a,o=ci,l=!1){let c=this.elements,h=2*r/(e-t),d=2*r/(n-s),u=(e+t)/(e-t),m=(n+s)/(n-s),g,_;if(l)g=r/(a-r),_=a*r/(a-r);else if(o===ci)g=-(a+r)/(a-r),_=-2*a*r/(a-r);else if(o===Tr)g=-a/(a-r),_=-a*r/(a-r);else throw new Error("THREE.Matrix4.makePerspective(): Invalid coordinate system: "+o);return c[0]=h,c[4]=0,c[8]=u,c[12]=0,c[1]=0,c[5]=d,c[9]=m,c[13]=0,c[2]=0,c[6]=0,c[10]=g,c[14]=_,c[3]=0,c[7]=0,c[11]=-1,c[15]=0,this}makeOrthographic(t,e,n,s,r,a,o=ci,l=!1){let c=this.elements,h=2/(e-t),d=2/(n-s),u=-(e+t)/(e-t),m=-(n+s)/(n-s),g,_;if(l)g=1/(a-r),_=a/(a-r);else if(o===ci)g=-2/(a-r),_=-(a+r)/(a-r);else if(o===Tr)g=-1/(a-r),_=-r/(a-r);else throw new Error("THREE.Matrix4.makeOrthographic(): Invalid coordinate system: "+o);return c[0]=h,c[4]=0,c[8]=0,c[12]=u,c[1]=0,c[5]=d,c[9]=0,c[13]=m,c[2]=0,c[6]=0,c[10]=g,c[14]=_,c[3]=0,c[7]=0,c[11]=0,c[15]=1,this}equals(t){let e=this.elements,n=t.elements;for(let s=0;s<16;s++)if(e[s]!==n[s])return!1;return!0}fromArray(t,e=0){for(let n=0;n<16;n++)this.elements[n]=t[n+e];return this}toArray(t=[],e=0){let n=this.elements;return t[e]=n[0],t[e+1]=n[1],t[e+2]=n[2],t[e+3]=n[3],t[e+4]=n[4],t[e+5]=n[5],t[e+6]=n[6],t[e+7]=n[7],t[e+8]=n[8],t[e+9]=n[9],t[e+10]=n[10],t[e+11]=n[11],t[e+12]=n[12],t[e+13]=n[13],t[e+14]=n[14],t[e+15]=n[15],t}},ms=new N,fi=new se,Gx=new N(0,0,0),Wx=new N(1,1,1),on=new N,Ga=new N,Ze=new N,sp=new se,rp=new Qe,fn=class i{constructor(t=0,e=0,n=0,s=i.DEFAULT_ORDER){this.isEuler=!0,this._x=t,this._y=e,this._z=n,this._order=s}get x(){return this._x}set x(t){this._x=t,this._onChangeCallback()}get y(){return this._y}set y(t){this._y=t,this._onChangeCallback()}get z(){return this._z}set z(t){this._z=t,this._onChangeCallback()}get order(){return this._order}set order(t){this._order=t,this._onChangeCallback()}set(t,e,n,s=this._order){return this._x=t,this._y=e,this._z=n,this._order=s,this._onChangeCallback(),this}clone(){return new this.constructor(this._x,this._y,this._z,this._order)}copy(t){return this._x=t._x,this._y=t._y,this._z=t._z,this._order=t._order,this._onChangeCallback(),this}setFromRotationMatrix(t,e=this._order,n=!0){let s=t.elements,r=s[0],a=s[4],o=s[8],l=s[1],c=s[5],h=s[9],d=s[2],u=s[6],m=s[10];switch(e){case"XYZ":this._y=Math.asin(zt(o,-1,1)),Math.abs(o)<.9999999?(this._x=Math.atan2(-h,m),this._z=Math.atan2(-a,r)):(this._x=Math.atan2(u,c),this._z=0);break;case"YXZ":this._x=Math.asin(-zt(h,-1,1)),Math.abs(h)<.9999999?(this._y=Math.atan2(o,m),this._z=Math.atan2(l,c)):(this._y=Math.atan2(-d,r),this._z=0);break;case"ZXY":this._x=Math.asin(zt(u,-1,1)),Math.abs(u)<.9999999?(this._y=Math.atan2(-d,m),this._z=Math.atan2(-a,c)):(this._y=0,this._z=Math.atan2(l,r));break;case"ZYX":this._y=Math.asin(-zt(d,-1,1)),Math.abs(d)<.9999999?(this._x=Math.atan2(u,m),this._z=Math.atan2(l,r)):(this._x=0,this._z=Math.atan2(-a,c));break;case"YZX":this._z=Math.asin(zt(l,-1,1)),Math.abs(l)<.9999999?(this._x=Math.atan2(-h,c),this._y=Math.atan2(-d,r)):(this._x=0,this._y=Math.atan2(o,m));break;case"XZY":this._z=Math.asin(-zt(a,-1,1)),Math.abs(a)<.9999999?(this._x=Math.atan2(u,c),this._y=Math.atan2(o,r)):(this._x=Math.atan2(-h,m),this._y=0);break;default:Et("Euler: .setFromRotationMatrix() encountered an unknown order: "+e)}return this._order=e,n===!0&&this._onChangeCallback(),this}setFromQuaternion(t,e,n){return sp.makeRotationFromQuaternion(t),this.setFromRotationMatrix(sp,e,n)}setFromVector3(t,e=this._order){return this.set(t.x,t.y,t.z,e)}reorder(t){return rp.setFromEuler(this),this.setFromQuaternion(rp,t)}equals(t){return t._x===this._x&&t._y===this._y&&t._z===this._z&&t._order===this._order}fromArray(t){return this._x=t[0],this._y=t[1],this._z=t[2],t[3]!==void 0&&(this._order=t[3]),this._onChangeCallback(),this}toArray(t=[],e=0){return t[e]=this._x,t[e+1]=this._y,t[e+2]=this._z,t[e+3]=this._order,t}_onChange(t){return this._onChangeCallback=t,this}_onChangeCallback(){}*[Symbol.iterator](){yield this._x,yield this._y,yield this._z,yield this._order}};fn.DEFAULT_ORDER="XYZ";var Cr=class{constructor(){this.mask=1}set(t){this.mask=(1<<t|0)>>>0}enable(t){this.mask|=1<<t|0}enableAll(){this.mask=-1}toggle(t){this.mask^=1<<t|0}disable(t){this.mask&=~(1<<t|0)}disableAll(){this.mask=0}test(t){return(this.mask&t.mask)!==0}isEnabled(t){return(this.mask&(1<<t|0))!==0}},Xx=0,ap=new N,gs=new Qe,Gi=new se,Wa=new N,mr=new N,qx=new N,$x=new Qe,op=new N(1,0,0),lp=new N(0,1,0),cp=new N(0,0,1),hp={type:"added"},Yx={type:"removed"},_s={type:"childadded",child:null},rh={type:"childremoved",child:null},$e=class i extends gi{constructor(){super(),this.isObject3D=!0,Object.defineProperty(this,"id",{value:Xx++}),this.uuid=Gs(),this.name="",this.type="Object3D",this.parent=null,this.children=[],this.up=i.DEFAULT_UP.clone();let t=new N,e=new fn,n=new Qe,s=new N(1,1,1);function r(){n.setFromEuler(e,!1)}function a(){e.setFromQuaternion(n,void 0,!1)}e._onChange(r),n._onChange(a),Object.defineProperties(this,{position:{configurable:!0,enumerable:!0,value:t},rotation:{configurable:!0,enumerable:!0,value:e},quaternion:{configurable:!0,enumerable:!0,value:n},scale:{configurable:!0,enumerable:!0,value:s},modelViewMatrix:{value:new se},normalMatrix:{value:new Pt}}),this.matrix=new se,this.matrixWorld=new se,this.matrixAutoUpdate=i.DEFAULT_MATRIX_AUTO_UPDATE,this.matrixWorldAutoUpdate=i.DEFAULT_MATRIX_WORLD_AUTO_UPDATE,this.matrixWorldNeedsUpdate=!1,this.layers=new Cr,this.visible=!0,this.castShadow=!1,this.receiveShadow=!1,this.frustumCulled=!0,this.renderOrder=0,this.animations=[],this.customDepthMaterial=void 0,this.customDistanceMaterial=void 0,this.static=!1,this.userData={},this.pivot=null}onBeforeShadow(){}onAfterShadow(){}onBeforeRender(){}onAfterRender(){}applyMatrix4(t){this.matrixAutoUpdate&&this.updateMatrix(),this.matrix.premultiply(t),this.matrix.decompose(this.position,this.quaternion,this.scale),this.pivot!==null&&this.position.copy(this.pivot).applyMatrix4(this.matrix).sub(this.pivot)}applyQuaternion(t){return this.quaternion.premultiply(t),this}setRotationFromAxisAngle(t,e){this.quaternion.setFromAxisAngle(t,e)}setRotationFromEuler(t){this.quaternion.setFromEuler(t,!0)}setRotationFromMatrix(t){this.quaternion.setFromRotationMatrix(t)}setRotationFromQuaternion(t){this.quaternion.copy(t)}rotateOnAxis(t,e){return gs.setFromAxisAngle(t,e),this.quaternion.multiply(gs),this}rotateOnWorldAxis(t,e){return gs.setFromAxisAngle(t,e),this.quaternion.premultiply(gs),this}rotateX(t){return this.rotateOnAxis(op,t)}rotateY(t){return this.rotateOnAxis(lp,t)}rotateZ(t){return this.rotateOnAxis(cp,t)}translateOnAxis(t,e){return ap.copy(t).applyQuaternion(this.quaternion),this.position.add(ap.multiplyScalar(e)),this}translateX(t){return this.translateOnAxis(op,t)}translateY(t){return this.translateOnAxis(lp,t)}translateZ(t){return this.translateOnAxis(cp,t)}localToWorld(t){return this.updateWorldMatrix(!0,!1),t.applyMatrix4(this.matrixWorld)}worldToLocal(t){return this.updateWorldMatrix(!0,!1),t.applyMatrix4(Gi.copy(this.matrixWorld).invert())}lookAt(t,e,n){t.isVector3?Wa.copy(t):Wa.set(t,e,n);let s=this.parent;this.updateWorldMatrix(!0,!1),mr.setFromMatrixPosition(this.matrixWorld),this.isCamera||this.isLight?Gi.lookAt(mr,Wa,this.up):Gi.lookAt(Wa,mr,this.up),this.quaternion.setFromRotationMatrix(Gi),s&&(Gi.extractRotation(s.matrixWorld),gs.setFromRotationMatrix(Gi),this.quaternion.premultiply(gs.invert()))}add(t){if(arguments.length>1){for(let e=0;e<arguments.length;e++)this.add(arguments[e]);return this}return t===this?(Ct("Object3D.add: object can't be added as a child of itself.",t),this):(t&&t.isObject3D?(t.removeFromParent(),t.parent=this,this.children.push(t),t.dispatchEvent(hp),_s.child=t,this.dispatchEvent(_s),_s.child=null):Ct("Object3D.add: object not an instance of THREE.Object3D.",t),this)}remove(t){if(arguments.length>1){for(let n=0;n<arguments.length;n++)this.remove(arguments[n]);return this}let e=this.children.indexOf(t);return e!==-1&&(t.parent=null,this.children.splice(e,1),t.dispatchEvent(Yx),rh.child=t,this.dispatchEvent(rh),rh.child=null),this}removeFromParent(){let t=this.parent;return t!==null&&t.remove(this),this}clear(){return this.remove(...this.children)}attach(t){return this.updateWorldMatrix(!0,!1),Gi.copy(this.matrixWorld).invert(),t.parent!==null&&(t.parent.updateWorldMatrix(!0,!1),Gi.multiply(t.parent.matrixWorld)),t.applyMatrix4(Gi),t.removeFromParent(),t.parent=this,this.children.push(t),t.updateWorldMatrix(!1,!0),t.dispatchEvent(hp),_s.child=t,this.dispatchEvent(_s),_s.child=null,this}getObjectById(t){return this.getObjectByProperty("id",t)}getObjectByName(t){return this.getObjectByProperty("name",t)}getObjectByProperty(t,e){if(this[t]===e)return this;for(let n=0,s=this.children.length;n<s;n++){let a=this.children[n].getObjectByProperty(t,e);if(a!==void 0)return a}}getObjectsByProperty(t,e,n=[]){this[t]===e&&n.push(this);let s=this.children;for(let r=0,a=s.length;r<a;r++)s[r].getObjectsByProperty(t,e,n);return n}getWorldPosition(t){return this.updateWorldMatrix(!0,!1),t.setFromMatrixPosition(this.matrixWorld)}getWorldQuaternion(t){return this.updateWorldMatrix(!0,!1),this.matrixWorld.decompose(mr,t,qx),t}getWorldScale(t){return this.updateWorldMatrix(!0,!1),this.matrixWorld.decompose(mr,$x,t),t}getWorldDirection(t){this.updateWorldMatrix(!0,!1);let e=this.matrixWorld.elements;return t.set(e[8],e[9],e[10]).normalize()}raycast(){}intersectsFrustum(){return!0}traverse(t){t(this);let e=this.children;for(let n=0,s=e.length;n<s;n++)e[n].traverse(t)}traverseVisible(t){if(this.visible===!1)return;t(this);let e=this.children;for(let n=0,s=e.length;n<s;n++)e[n].traverseVisible(t)}traverseAncestors(t){let e=this.parent;e!==null&&(t(e),e.traverseAncestors(t))}updateMatrix(){this.matrix.compose(this.position,this.quaternion,this.scale);let t=this.pivot;if(t!==null){let e=t.x,n=t.y,s=t.z,r=this.matrix.elements;r[12]+=e-r[0]*e-r[4]*n-r[8]*s,r[13]+=n-r[1]*e-r[5]*n-r[9]*s,r[14]+=s-r[2]*e-r[6]*n-r[10]*s}this.matrixWorldNeedsUpdate=!0}updateMatrixWorld(t){this.matrixAutoUpdate&&this.updateMatrix(),(this.matrixWorldNeedsUpdate||t)&&(this.matrixWorldAutoUpdate===!0&&(this.parent===null?this.matrixWorld.copy(this.matrix):this.matrixWorld.multiplyMatrices(this.parent.matrixWorld,this.matrix)),this.matrixWorldNeedsUpdate=!1,t=!0);let e=this.children;for(let n=0,s=e.length;n<s;n++)e[n].updateMatrixWorld(t)}updateWorldMatrix(t,e,n=!1){let s=this.parent;if(t===!0&&s!==null&&s.updateWorldMatrix(!0,!1),this.matrixAutoUpdate&&this.updateMatrix(),(this.matrixWorldNeedsUpdate||n)&&(this.matrixWorldAutoUpdate===!0&&(this.parent===null?this.matrixWorld.copy(this.matrix):this.matrixWorld.multiplyMatrices(this.parent.matrixWorld,this.matrix)),this.matrixWorldNeedsUpdate=!1,n=!0),e===!0){let r=this.children;for(let a=0,o=r.length;a<o;a++)r[a].updateWorldMatrix(!1,!0,n)}}toJSON(t){let e=t===void 0||typeof t=="string",n={};e&&(t={geometries:{},materials:{},textures:{},images:{},shapes:{},skeletons:{},animations:{},nodes:{}},n.metadata={version:4.7,type:"Object",generator:"Object3D.toJSON"});let s={};s.uuid=this.uuid,s.type=this.type,s.name=this.name,s.castShadow=this.castShadow,s.receiveShadow=this.receiveShadow,s.visible=this.visible,s.frustumCulled=this.frustumCulled,s.renderOrder=this.renderOrder,s.static=this.static,s.matrixAutoUpdate=this.matrixAutoUpdate,Object.keys(this.userData).length>0&&(s.userData=this.userData),s.layers=this.layers.mask,s.matrix=this.matrix.toArray(),s.up=this.up.toArray(),this.pivot!==null&&(s.pivot=this.pivot.toArray()),this.morphTargetDictionary!==void 0&&(s.morphTargetDictionary=Object.assign({},this.morphTargetDictionary)),this.morphTargetInfluences!==void 0&&(s.morphTargetInfluences=this.morphTargetInfluences.slice()),this.isInstancedMesh&&(s.type="InstancedMesh",s.count=this.count,s.instanceMatrix=this.instanceMatrix.toJSON(),this.instanceColor!==null&&(s.instanceColor=this.instanceColor.toJSON())),this.isBatchedMesh&&(s.type="BatchedMesh",s.perObjectFrustumCulled=this.perObjectFrustumCulled,s.sortObjects=this.sortObjects,s.drawRanges=this._drawRanges,s.reservedRanges=this._reservedRanges,s.geometryInfo=this._geometryInfo.map(o=>({...o,boundingBox:o.boundingBox?o.boundingBox.toJSON():void 0,boundingSphere:o.boundingSphere?o.boundingSphere.toJSON():void 0})),s.instanceInfo=this._instanceInfo.map(o=>({...o})),s.availableInstanceIds=this._availableInstanceIds.slice(),s.availableGeometryIds=this._availableGeometryIds.slice(),s.nextIndexStart=this._nextIndexStart,s.nextVertexStart=this._nextVertexStart,s.geometryCount=this._geometryCount,s.maxInstanceCount=this._maxInstanceCount,s.maxVertexCount=this._maxVertexCount,s.maxIndexCount=this._maxIndexCount,s.geometryInitialized=this._geometryInitialized,s.matricesTexture=this._matricesTexture.toJSON(t),s.indirectTexture=this._indirectTexture.toJSON(t),this._colorsTexture!==null&&(s.colorsTexture=this._colorsTexture.toJSON(t)),this.boundingSphere!==null&&(s.boundingSphere=this.boundingSphere.toJSON()),this.boundingBox!==null&&(s.boundingBox=this.boundingBox.toJSON()));function r(o,l){return o[l.uuid]===void 0&&(o[l.uuid]=l.toJSON(t)),l.uuid}if(this.isScene)this.background&&(this.background.isColor?s.background=this.background.toJSON():this.background.isTexture&&(s.background=this.background.toJSON(t).uuid)),this.environment&&this.environment.isTexture&&this.environment.isRenderTargetTexture!==!0&&(s.environment=this.environment.toJSON(t).uuid);else if(this.isMesh||this.isLine||this.isPoints){s.geometry=r(t.geometries,this.geometry);let o=this.geometry.parameters;if(o!==void 0&&o.shapes!==void 0){let l=o.shapes;if(Array.isArray(l))for(let c=0,h=l.length;c<h;c++){let d=l[c];r(t.shapes,d)}else r(t.shapes,l)}}if(this.isSkinnedMesh&&(s.bindMode=this.bindMode,s.bindMatrix=this.bindMatrix.toArray(),this.skeleton!==void 0&&(r(t.skeletons,this.skeleton),s.skeleton=this.skeleton.uuid)),this.material!==void 0)if(Array.isArray(this.material)){let o=[];for(let l=0,c=this.material.length;l<c;l++)o.push(r(t.materials,this.material[l]));s.material=o}else s.material=r(t.materials,this.material);if(this.children.length>0){s.children=[];for(let o=0;o<this.children.length;o++)s.children.push(this.children[o].toJSON(t).object)}if(this.animations.length>0){s.animations=[];for(let o=0;o<this.animations.length;o++){let l=this.animations[o];s.animations.push(r(t.animations,l))}}if(e){let o=a(t.geometries),l=a(t.materials),c=a(t.textures),h=a(t.images),d=a(t.shapes),u=a(t.skeletons),m=a(t.animations),g=a(t.nodes);o.length>0&&(n.geometries=o),l.length>0&&(n.materials=l),c.length>0&&(n.textures=c),h.length>0&&(n.images=h),d.length>0&&(n.shapes=d),u.length>0&&(n.skeletons=u),m.length>0&&(n.animations=m),g.length>0&&(n.nodes=g)}return n.object=s,n;function a(o){let l=[];for(let c in o){let h=o[c];delete h.metadata,l.push(h)}return l}}clone(t){return new this.constructor().copy(this,t)}copy(t,e=!0){if(this.name=t.name,this.up.copy(t.up),this.position.copy(t.position),this.rotation.order=t.rotation.order,this.quaternion.copy(t.quaternion),this.scale.copy(t.scale),this.pivot=t.pivot!==null?t.pivot.clone():null,this.matrix.copy(t.matrix),this.matrixWorld.copy(t.matrixWorld),this.matrixAutoUpdate=t.matrixAutoUpdate,this.matrixWorldAutoUpdate=t.matrixWorldAutoUpdate,this.matrixWorldNeedsUpdate=t.matrixWorldNeedsUpdate,this.layers.mask=t.layers.mask,this.visible=t.visible,this.castShadow=t.castShadow,this.receiveShadow=t.receiveShadow,this.frustumCulled=t.frustumCulled,this.renderOrder=t.renderOrder,this.static=t.static,this.animations=t.animations.slice(),this.userData=JSON.parse(JSON.stringify(t.userData)),e===!0)for(let n=0;n<t.children.length;n++){let s=t.children[n];this.add(s.clone())}return this}dispose(){this.dispatchEvent({type:"dispose"})}};$e.DEFAULT_UP=new N(0,1,0);$e.DEFAULT_MATRIX_AUTO_UPDATE=!0;$e.DEFAULT_MATRIX_WORLD_AUTO_UPDATE=!0;var Ci=class extends $e{constructor(){super(),this.isGroup=!0,this.type="Group"}},Zx={type:"move"},Ls=class{constructor(){this._targetRay=null,this._grip=null,this._hand=null}getHandSpace(){return this._hand===null&&(this._hand=new Ci,this._hand.matrixAutoUpdate=!1,this._hand.visible=!1,this._hand.joints={},this._hand.inputState={pinching:!1}),this._hand}getTargetRaySpace(){return this._targetRay===null&&(this._targetRay=new Ci,this._targetRay.matrixAutoUpdate=!1,this._targetRay.visible=!1,this._targetRay.hasLinearVelocity=!1,this._targetRay.linearVelocity=new N,this._targetRay.hasAngularVelocity=!1,this._targetRay.angularVelocity=new N),this._targetRay}getGripSpace(){return this._grip===null&&(this._grip=new Ci,this._grip.matrixAutoUpdate=!1,this._grip.visible=!1,this._grip.hasLinearVelocity=!1,this._grip.linearVelocity=new N,this._grip.hasAngularVelocity=!1,this._grip.angularVelocity=new N,this._grip.eventsEnabled=!1),this._grip}dispatchEvent(t){return this._targetRay!==null&&this._targetRay.dispatchEvent(t),this._grip!==null&&this._grip.dispatchEvent(t),this._hand!==null&&this._hand.dispatchEvent(t),this}connect(t){if(t&&t.hand){let e=this._hand;if(e)for(let n of t.hand.values())this._getHandJoint(e,n)}return this.dispatchEvent({type:"connected",data:t}),this}disconnect(t){return this.dispatchEvent({type:"disconnected",data:t}),this._targetRay!==null&&(this._targetRay.visible=!1),this._grip!==null&&(this._grip.visible=!1),this._hand!==null&&(this._hand.visible=!1),this}update(t,e,n){let s=null,r=null,a=null,o=this._targetRay,l=this._grip,c=this._hand;if(t&&e.session.visibilityState!=="visible-blurred"){if(c&&t.hand){a=!0;for(let _ of t.hand.values()){let f=e.getJointPose(_,n),p=this._getHandJoint(c,_);f!==null&&(p.matrix.fromArray(f.transform.matrix),p.matrix.decompose(p.position,p.quaternion,p.scale),p.matrixWorldNeedsUpdate=!0,p.jointRadius=f.radius),p.visible=f!==null}let h=c.joints["index-finger-tip"],d=c.joints["thumb-tip"],u=h.position.distanceTo(d.position),m=.02,g=.005;c.inputState.pinching&&u>m+g?(c.inputState.pinching=!1,this.dispatchEvent({type:"pinchend",handedness:t.handedness,target:this})):!c.inputState.pinching&&u<=m-g&&(c.inputState.pinching=!0,this.dispatchEvent({type:"pinchstart",handedness:t.handedness,target:this}))}else l!==null&&t.gripSpace&&(r=e.getPose(t.gripSpace,n),r!==null&&(l.matrix.fromArray(r.transform.matrix),l.matrix.decompose(l.position,l.quaternion,l.scale),l.matrixWorldNeedsUpdate=!0,r.linearVelocity?(l.hasLinearVelocity=!0,l.linearVelocity.copy(r.linearVelocity)):l.hasLinearVelocity=!1,r.angularVelocity?(l.hasAngularVelocity=!0,l.angularVelocity.copy(r.angularVelocity)):l.hasAngularVelocity=!1,l.eventsEnabled&&l.dispatchEvent({type:"gripUpdated",data:t,target:this})));o!==null&&(s=e.getPose(t.targetRaySpace,n),s===null&&r!==null&&(s=r),s!==null&&(o.matrix.fromArray(s.transform.matrix),o.matrix.decompose(o.position,o.quaternion,o.scale),o.matrixWorldNeedsUpdate=!0,s.linearVelocity?(o.hasLinearVelocity=!0,o.linearVelocity.copy(s.linearVelocity)):o.hasLinearVelocity=!1,s.angularVelocity?(o.hasAngularVelocity=!0,o.angularVelocity.copy(s.angularVelocity)):o.hasAngularVelocity=!1,this.dispatchEvent(Zx)))}return o!==null&&(o.visible=s!==null),l!==null&&(l.visible=r!==null),c!==null&&(c.visible=a!==null),this}_getHandJoint(t,e){if(t.joints[e.jointName]===void 0){let n=new Ci;n.matrixAutoUpdate=!1,n.visible=!1,t.joints[e.jointName]=n,t.add(n)}return t.joints[e.jointName]}},dm={aliceblue:15792383,antiquewhite:16444375,aqua:65535,aquamarine:8388564,azure:15794175,beige:16119260,bisque:16770244,black:0,blanchedalmond:16772045,blue:255,blueviolet:9055202,brown:10824234,burlywood:14596231,cadetblue:6266528,chartreuse:8388352,chocolate:13789470,coral:16744272,cornflowerblue:6591981,cornsilk:16775388,crimson:14423100,cyan:65535,darkblue:139,darkcyan:35723,darkgoldenrod:12092939,darkgray:11119017,darkgreen:25600,darkgrey:11119017,darkkhaki:12433259,darkmagenta:9109643,darkolivegreen:5597999,darkorange:16747520,darkorchid:10040012,darkred:9109504,darksalmon:15308410,darkseagreen:9419919,darkslateblue:4734347,darkslategray:3100495,darkslategrey:3100495,darkturquoise:52945,darkviolet:9699539,deeppink:16716947,deepskyblue:49151,dimgray:6908265,dimgrey:6908265,dodgerblue:2003199,firebrick:11674146,floralwhite:16775920,forestgreen:2263842,fuchsia:16711935,gainsboro:14474460,ghostwhite:16316671,gold:16766720,goldenrod:14329120,gray:8421504,green:32768,greenyellow:11403055,grey:8421504,honeydew:15794160,hotpink:16738740,indianred:13458524,indigo:4915330,ivory:16777200,khaki:15787660,lavender:15132410,lavenderblush:16773365,lawngreen:8190976,lemonchiffon:16775885,lightblue:11393254,lightcoral:15761536,lightcyan:14745599,lightgoldenrodyellow:16448210,lightgray:13882323,lightgreen:9498256,lightgrey:13882323,lightpink:16758465,lightsalmon:16752762,lightseagreen:2142890,lightskyblue:8900346,lightslategray:7833753,lightslategrey:7833753,lightsteelblue:11584734,lightyellow:16777184,lime:65280,limegreen:3329330,linen:16445670,magenta:16711935,maroon:8388608,mediumaquamarine:6737322,mediumblue:205,mediumorchid:12211667,mediumpurple:9662683,mediumseagreen:3978097,mediumslateblue:8087790,mediumspringgreen:64154,mediumturquoise:4772300,mediumvioletred:13047173,midnightblue:1644912,mintcream:16121850,mistyrose:16770273,moccasin:16770229,navajowhite:16768685,navy:128,oldlace:16643558,olive:8421376,olivedrab:7048739,orange:16753920,orangered:16729344,orchid:14315734,palegoldenrod:15657130,palegreen:10025880,paleturquoise:11529966,palevioletred:14381203,papayawhip:16773077,peachpuff:16767673,peru:13468991,pink:16761035,plum:14524637,powderblue:11591910,purple:8388736,rebeccapurple:6697881,red:16711680,rosybrown:12357519,royalblue:4286945,saddlebrown:9127187,salmon:16416882,sandybrown:16032864,seagreen:3050327,seashell:16774638,sienna:10506797,silver:12632256,skyblue:8900331,slateblue:6970061,slategray:7372944,slategrey:7372944,snow:16775930,springgreen:65407,steelblue:4620980,tan:13808780,teal:32896,thistle:14204888,tomato:16737095,turquoise:4251856,violet:15631086,wheat:16113331,white:16777215,whitesmoke:16119285,yellow:16776960,yellowgreen:10145074},ln={h:0,s:0,l:0},Xa={h:0,s:0,l:0};function ah(i,t,e){return e<0&&(e+=1),e>1&&(e-=1),e<1/6?i+(t-i)*6*e:e<1/2?t:e<2/3?i+(t-i)*6*(2/3-e):i}var Ht=class{constructor(t,e,n){return this.isColor=!0,this.r=1,this.g=1,this.b=1,this.set(t,e,n)}set(t,e,n){if(e===void 0&&n===void 0){let s=t;s&&s.isColor?this.copy(s):typeof s=="number"?this.setHex(s):typeof s=="string"&&this.setStyle(s)}else this.setRGB(t,e,n);return this}setScalar(t){return this.r=t,this.g=t,this.b=t,this}setHex(t,e=Je){return t=Math.floor(t),this.r=(t>>16&255)/255,this.g=(t>>8&255)/255,this.b=(t&255)/255,Xt.colorSpaceToWorking(this,e),this}setRGB(t,e,n,s=Xt.workingColorSpace){return this.r=t,this.g=e,this.b=n,Xt.colorSpaceToWorking(this,s),this}setHSL(t,e,n,s=Xt.workingColorSpace){if(t=iu(t,1),e=zt(e,0,1),n=zt(n,0,1),e===0)this.r=this.g=this.b=n;else{let r=n<=.5?n*(1+e):n+e-n*e,a=2*n-r;this.r=ah(a,r,t+1/3),this.g=ah(a,r,t),this.b=ah(a,r,t-1/3)}return Xt.colorSpaceToWorking(this,s),this}setStyle(t,e=Je){function n(r){r!==void 0&&parseFloat(r)<1&&Et("Color: Alpha component of "+t+" will be ignored.")}let s;if(s=/^(\w+)\(([^\)]*)\)/.exec(t)){let r,a=s[1],o=s[2];switch(a){case"rgb":case"rgba":if(r=/^\s*(\d+)\s*,\s*(\d+)\s*,\s*(\d+)\s*(?:,\s*(\d+(?:\.\d+)?|\.\d+)\s*)?$/.exec(o))return n(r[4]),this.setRGB(Math.min(255,parseInt(r[1],10))/255,Math.min(255,parseInt(r[2],10))/255,Math.min(255,parseInt(r[3],10))/255,e);if(r=/^\s*(\d+(?:\.\d+)?|\.\d+)\%\s*,\s*(\d+(?:\.\d+)?|\.\d+)\%\s*,\s*(\d+(?:\.\d+)?|\.\d+)\%\s*(?:,\s*(\d+(?:\.\d+)?|\.\d+)\s*)?$/.exec(o))return n(r[4]),this.setRGB(Math.min(100,parseFloat(r[1]))/100,Math.min(100,parseFloat(r[2]))/100,Math.min(100,parseFloat(r[3]))/100,e);break;case"hsl":case"hsla":if(r=/^\s*([+-]?(?:\d+(?:\.\d+)?|\.\d+))\s*,\s*(\d+(?:\.\d+)?|\.\d+)\%\s*,\s*(\d+(?:\.\d+)?|\.\d+)\%\s*(?:,\s*(\d+(?:\.\d+)?|\.\d+)\s*)?$/.exec(o))return n(r[4]),this.setHSL(parseFloat(r[1])/360,parseFloat(r[2])/100,parseFloat(r[3])/100,e);break;default:Et("Color: Unknown color model "+t)}}else if(s=/^\#([A-Fa-f\d]+)$/.exec(t)){let r=s[1],a=r.length;if(a===3)return this.setRGB(parseInt(r.charAt(0),16)/15,parseInt(r.charAt(1),16)/15,parseInt(r.charAt(2),16)/15,e);if(a===6)return this.setHex(parseInt(r,16),e);Et("Color: Invalid hex color "+t)}else if(t&&t.length>0)return this.setColorName(t,e);return this}setColorName(t,e=Je){let n=dm[t.toLowerCase()];return n!==void 0?this.setHex(n,e):Et("Color: Unknown color "+t),this}clone(){return new this.constructor(this.r,this.g,this.b)}copy(t){return this.r=t.r,this.g=t.g,this.b=t.b,this}copySRGBToLinear(t){return this.r=Yi(t.r),this.g=Yi(t.g),this.b=Yi(t.b),this}copyLinearToSRGB(t){return this.r=As(t.r),this.g=As(t.g),this.b=As(t.b),this}convertSRGBToLinear(){return this.copySRGBToLinear(this),this}convertLinearToSRGB(){return this.copyLinearToSRGB(this),this}getHex(t=Je){return Xt.workingToColorSpace(Ue.copy(this),t),Math.round(zt(Ue.r*255,0,255))*65536+Math.round(zt(Ue.g*255,0,255))*256+Math.round(zt(Ue.b*255,0,255))}getHexString(t=Je){return("000000"+this.getHex(t).toString(16)).slice(-6)}getHSL(t,e=Xt.workingColorSpace){Xt.workingToColorSpace(Ue.copy(this),e);let n=Ue.r,s=Ue.g,r=Ue.b,a=Math.max(n,s,r),o=Math.min(n,s,r),l,c,h=(o+a)/2;if(o===a)l=0,c=0;else{let d=a-o;switch(c=h<=.5?d/(a+o):d/(2-a-o),a){case n:l=(s-r)/d+(s<r?6:0);break;case s:l=(r-n)/d+2;break;case r:l=(n-s)/d+4;break}l/=6}return t.h=l,t.s=c,t.l=h,t}getRGB(t,e=Xt.workingColorSpace){return Xt.workingToColorSpace(Ue.copy(this),e),t.r=Ue.r,t.g=Ue.g,t.b=Ue.b,t}getStyle(t=Je){Xt.workingToColorSpace(Ue.copy(this),t);let e=Ue.r,n=Ue.g,s=Ue.b;return t!==Je?`color(${t} ${e.toFixed(3)} ${n.toFixed(3)} ${s.toFixed(3)})`:`rgb(${Math.round(e*255)},${Math.round(n*255)},${Math.round(s*255)})`}offsetHSL(t,e,n){return this.getHSL(ln),this.setHSL(ln.h+t,ln.s+e,ln.l+n)}add(t){return this.r+=t.r,this.g+=t.g,this.b+=t.b,this}addColors(t,e){return this.r=t.r+e.r,this.g=t.g+e.g,this.b=t.b+e.b,this}addScalar(t){return this.r+=t,this.g+=t,this.b+=t,this}sub(t){return this.r=Math.max(0,this.r-t.r),this.g=Math.max(0,this.g-t.g),this.b=Math.max(0,this.b-t.b),this}multiply(t){return this.r*=t.r,this.g*=t.g,this.b*=t.b,this}multiplyScalar(t){return this.r*=t,this.g*=t,this.b*=t,this}lerp(t,e){return this.r+=(t.r-this.r)*e,this.g+=(t.g-this.g)*e,this.b+=(t.b-this.b)*e,this}lerpColors(t,e,n){return this.r=t.r+(e.r-t.r)*n,this.g=t.g+(e.g-t.g)*n,this.b=t.b+(e.b-t.b)*n,this}lerpHSL(t,e){this.getHSL(ln),t.getHSL(Xa);let n=Mr(ln.h,Xa.h,e),s=Mr(ln.s,Xa.s,e),r=Mr(ln.l,Xa.l,e);return this.setHSL(n,s,r),this}setFromVector3(t){return this.r=t.x,this.g=t.y,this.b=t.z,this}applyMatrix3(t){let e=this.r,n=this.g,s=this.b,r=t.elements;return this.r=r[0]*e+r[3]*n+r[6]*s,this.g=r[1]*e+r[4]*n+r[7]*s,this.b=r[2]*e+r[5]*n+r[8]*s,this}equals(t){return t.r===this.r&&t.g===this.g&&t.b===this.b}fromArray(t,e=0){return this.r=t[e],this.g=t[e+1],this.b=t[e+2],this}toArray(t=[],e=0){return t[e]=this.r,t[e+1]=this.g,t[e+2]=this.b,t}fromBufferAttribute(t,e){return this.r=t.getX(e),this.g=t.getY(e),this.b=t.getZ(e),this}toJSON(){return this.getHex()}*[Symbol.iterator](){yield this.r,yield this.g,yield this.b}},Ue=new Ht;Ht.NAMES=dm;var Pr=class extends $e{constructor(){super(),this.isScene=!0,this.type="Scene",this.background=null,this.environment=null,this.fog=null,this.backgroundBlurriness=0,this.backgroundIntensity=1,this.backgroundRotation=new fn,this.environmentIntensity=1,this.environmentRotation=new fn,this.overrideMaterial=null,typeof __THREE_DEVTOOLS__<"u"&&__THREE_DEVTOOLS__.dispatchEvent(new CustomEvent("observe",{detail:this}))}copy(t,e){return super.copy(t,e),this.background=t.background!==null?t.background.clone():null,this.environment=t.environment!==null?t.environment.clone():null,this.fog=t.fog!==null?t.fog.clone():null,this.backgroundBlurriness=t.backgroundBlurriness,this.backgroundIntensity=t.backgroundIntensity,this.backgroundRotation.copy(t.backgroundRotation),this.environmentIntensity=t.environmentIntensity,this.environmentRotation.copy(t.environmentRotation),this.overrideMaterial=t.overrideMaterial!==null?t.overrideMaterial.clone():null,this.matrixAutoUpdate=t.matrixAutoUpdate,this}toJSON(t){let e=super.toJSON(t);return this.fog!==null&&(e.object.fog=this.fog.toJSON()),e.object.backgroundBlurriness=this.backgroundBlurriness,e.object.backgroundIntensity=this.backgroundIntensity,e.object.backgroundRotation=this.backgroundRotation.toArray(),e.object.environmentIntensity=this.environmentIntensity,e.object.environmentRotation=this.environmentRotation.toArray(),e}},pi=new N,Wi=new N,oh=new N,Xi=new N,xs=new N,ys=new N,up=new N,lh=new N,ch=new N,hh=new N,uh=new ue,dh=new ue,fh=new ue,dn=class i{constructor(t=new N,e=new N,n=new N){this.a=t,this.b=e,this.c=n}static getNormal(t,e,n,s){s.subVectors(n,e),pi.subVectors(t,e),s.cross(pi);let r=s.lengthSq();return r>0?s.multiplyScalar(1/Math.sqrt(r)):s.set(0,0,0)}static getBarycoord(t,e,n,s,r){pi.subVectors(s,e),Wi.subVectors(n,e),oh.subVectors(t,e);let a=pi.dot(pi),o=pi.dot(Wi),l=pi.dot(oh),c=Wi.dot(Wi),h=Wi.dot(oh),d=a*c-o*o;if(d===0)return r.set(0,0,0),null;let u=1/d,m=(c*l-o*h)*u,g=(a*h-o*l)*u;return r.set(1-m-g,g,m)}static containsPoint(t,e,n,s){return this.getBarycoord(t,e,n,s,Xi)===null?!1:Xi.x>=0&&Xi.y>=0&&Xi.x+Xi.y<=1}static getInterpolation(t,e,n,s,r,a,o,l){return this.getBarycoord(t,e,n,s,Xi)===null?(l.x=0,l.y=0,"z"in l&&(l.z=0),"w"in l&&(l.w=0),null):(l.setScalar(0),l.addScaledVector(r,Xi.x),l.addScaledVector(a,Xi.y),l.addScaledVector(o,Xi.z),l)}static getInterpolatedAttribute(t,e,n,s,r,a){return uh.setScalar(0),dh.setScalar(0),fh.setScalar(0),uh.fromBufferAttribute(t,e),dh.fromBufferAttribute(t,n),fh.fromBufferAttribute(t,s),a.setScalar(0),a.addScaledVector(uh,r.x),a.addScaledVector(dh,r.y),a.addScaledVector(fh,r.z),a}static isFrontFacing(t,e,n,s){return pi.subVectors(n,e),Wi.subVectors(t,e),pi.cross(Wi).dot(s)<0}set(t,e,n){return this.a.copy(t),this.b.copy(e),this.c.copy(n),this}setFromPointsAndIndices(t,e,n,s){return this.a.copy(t[e]),this.b.copy(t[n]),this.c.copy(t[s]),this}setFromAttributeAndIndices(t,e,n,s){return this.a.fromBufferAttribute(t,e),this.b.fromBufferAttribute(t,n),this.c.fromBufferAttribute(t,s),this}clone(){return new this.constructor().copy(this)}copy(t){return this.a.copy(t.a),this.b.copy(t.b),this.c.copy(t.c),this}getArea(){return pi.subVectors(this.c,this.b),Wi.subVectors(this.a,this.b),pi.cross(Wi).length()*.5}getMidpoint(t){return t.addVectors(this.a,this.b).add(this.c).multiplyScalar(1/3)}getNormal(t){return i.getNormal(this.a,this.b,this.c,t)}getPlane(t){return t.setFromCoplanarPoints(this.a,this.b,this.c)}getBarycoord(t,e){return i.getBarycoord(t,this.a,this.b,this.c,e)}getInterpolation(t,e,n,s,r){return i.getInterpolation(t,this.a,this.b,this.c,e,n,s,r)}containsPoint(t){return i.containsPoint(t,this.a,this.b,this.c)}isFrontFacing(t){return i.isFrontFacing(this.a,this.b,this.c,t)}intersectsBox(t){return t.intersectsTriangle(this)}closestPointToPoint(t,e){let n=this.a,s=this.b,r=this.c,a,o;xs.subVectors(s,n),ys.subVectors(r,n),lh.subVectors(t,n);let l=xs.dot(lh),c=ys.dot(lh);if(l<=0&&c<=0)return e.copy(n);ch.subVectors(t,s);let h=xs.dot(ch),d=ys.dot(ch);if(h>=0&&d<=h)return e.copy(s);let u=l*d-h*c;if(u<=0&&l>=0&&h<=0&&l-h>0)return a=l/(l-h),e.copy(n).addScaledVector(xs,a);hh.subVectors(t,r);let m=xs.dot(hh),g=ys.dot(hh);if(g>=0&&m<=g)return e.copy(r);let _=m*c-l*g;if(_<=0&&c>=0&&g<=0)return o=c/(c-g),e.copy(n).addScaledVector(ys,o);let f=h*g-m*d;if(f<=0&&d-h>=0&&m-g>=0)return up.subVectors(r,s),o=(d-h)/(d-h+(m-g)),e.copy(s).addScaledVector(up,o);let p=1/(f+_+u);return a=_*p,o=u*p,e.copy(n).addScaledVector(xs,a).addScaledVector(ys,o)}equals(t){return t.a.equals(this.a)&&t.b.equals(this.b)&&t.c.equals(this.c)}},pn=class{constructor(t=new N(1/0,1/0,1/0),e=new N(-1/0,-1/0,-1/0)){this.isBox3=!0,this.min=t,this.max=e}set(t,e){return this.min.copy(t),this.max.copy(e),this}setFromArray(t){this.makeEmpty();for(let e=0,n=t.length;e<n;e+=3)this.expandByPoint(mi.fromArray(t,e));return this}setFromBufferAttribute(t){this.makeEmpty();for(let e=0,n=t.count;e<n;e++)this.expandByPoint(mi.fromBufferAttribute(t,e));return this}setFromPoints(t){this.makeEmpty();for(let e=0,n=t.length;e<n;e++)this.expandByPoint(t[e]);return this}setFromCenterAndSize(t,e){let n=mi.copy(e).multiplyScalar(.5);return this.min.copy(t).sub(n),this.max.copy(t).add(n),this}setFromObject(t,e=!1){return this.makeEmpty(),this.expandByObject(t,e)}clone(){return new this.constructor().copy(this)}copy(t){return this.min.copy(t.min),this.max.copy(t.max),this}makeEmpty(){return this.min.x=this.min.y=this.min.z=1/0,this.max.x=this.max.y=this.max.z=-1/0,this}isEmpty(){return this.max.x<this.min.x||this.max.y<this.min.y||this.max.z<this.min.z}getCenter(t){return this.isEmpty()?t.set(0,0,0):t.addVectors(this.min,this.max).multiplyScalar(.5)}getSize(t){return this.isEmpty()?t.set(0,0,0):t.subVectors(this.max,this.min)}expandByPoint(t){return this.min.min(t),this.max.max(t),this}expandByVector(t){return this.min.sub(t),this.max.add(t),this}expandByScalar(t){return this.min.addScalar(-t),this.max.addScalar(t),this}expandByObject(t,e=!1){t.updateWorldMatrix(!1,!1);let n=t.geometry;if(n!==void 0){let r=n.getAttribute("position");if(e===!0&&r!==void 0&&t.isInstancedMesh!==!0&&t.isBatchedMesh!==!0)for(let a=0,o=r.count;a<o;a++)t.isMesh===!0?t.getVertexPosition(a,mi):mi.fromBufferAttribute(r,a),mi.applyMatrix4(t.matrixWorld),this.expandByPoint(mi);else t.boundingBox!==void 0?(t.boundingBox===null&&t.computeBoundingBox(),qa.copy(t.boundingBox)):(n.boundingBox===null&&n.computeBoundingBox(),qa.copy(n.boundingBox)),qa.applyMatrix4(t.matrixWorld),this.union(qa)}let s=t.children;for(let r=0,a=s.length;r<a;r++)this.expandByObject(s[r],e);return this}containsPoint(t){return t.x>=this.min.x&&t.x<=this.max.x&&t.y>=this.min.y&&t.y<=this.max.y&&t.z>=this.min.z&&t.z<=this.max.z}containsBox(t){return this.min.x<=t.min.x&&t.max.x<=this.max.x&&this.min.y<=t.min.y&&t.max.y<=this.max.y&&this.min.z<=t.min.z&&t.max.z<=this.max.z}getParameter(t,e){return e.set((t.x-this.min.x)/(this.max.x-this.min.x),(t.y-this.min.y)/(this.max.y-this.min.y),(t.z-this.min.z)/(this.max.z-this.min.z))}intersectsBox(t){return t.max.x>=this.min.x&&t.min.x<=this.max.x&&t.max.y>=this.min.y&&t.min.y<=this.max.y&&t.max.z>=this.min.z&&t.min.z<=this.max.z}intersectsSphere(t){return this.clampPoint(t.center,mi),mi.distanceToSquared(t.center)<=t.radius*t.radius}intersectsPlane(t){let e,n;return t.normal.x>0?(e=t.normal.x*this.min.x,n=t.normal.x*this.max.x):(e=t.normal.x*this.max.x,n=t.normal.x*this.min.x),t.normal.y>0?(e+=t.normal.y*this.min.y,n+=t.normal.y*this.max.y):(e+=t.normal.y*this.max.y,n+=t.normal.y*this.min.y),t.normal.z>0?(e+=t.normal.z*this.min.z,n+=t.normal.z*this.max.z):(e+=t.normal.z*this.max.z,n+=t.normal.z*this.min.z),e<=-t.constant&&n>=-t.constant}intersectsTriangle(t){if(this.isEmpty())return!1;this.getCenter(gr),$a.subVectors(this.max,gr),vs.subVectors(t.a,gr),Ss.subVectors(t.b,gr),Ms.subVectors(t.c,gr),cn.subVectors(Ss,vs),hn.subVectors(Ms,Ss),Xn.subVectors(vs,Ms);let e=[0,-cn.z,cn.y,0,-hn.z,hn.y,0,-Xn.z,Xn.y,cn.z,0,-cn.x,hn.z,0,-hn.x,Xn.z,0,-Xn.x,-cn.y,cn.x,0,-hn.y,hn.x,0,-Xn.y,Xn.x,0];return!ph(e,vs,Ss,Ms,$a)||(e=[1,0,0,0,1,0,0,0,1],!ph(e,vs,Ss,Ms,$a))?!1:(Ya.crossVectors(cn,hn),e=[Ya.x,Ya.y,Ya.z],ph(e,vs,Ss,Ms,$a))}clampPoint(t,e){return e.copy(t).clamp(this.min,this.max)}distanceToPoint(t){return this.clampPoint(t,mi).distanceTo(t)}getBoundingSphere(t){return this.isEmpty()?t.makeEmpty():(this.getCenter(t.center),t.radius=this.getSize(mi).length()*.5),t}intersect(t){return this.min.max(t.min),this.max.min(t.max),this.isEmpty()&&this.makeEmpty(),this}union(t){return this.min.min(t.min),this.max.max(t.max),this}applyMatrix4(t){return this.isEmpty()?this:(qi[0].set(this.min.x,this.min.y,this.min.z).applyMatrix4(t),qi[1].set(this.min.x,this.min.y,this.max.z).applyMatrix4(t),qi[2].set(this.min.x,this.max.y,this.min.z).applyMatrix4(t),qi[3].set(this.min.x,this.max.y,this.max.z).applyMatrix4(t),qi[4].set(this.max.x,this.min.y,this.min.z).applyMatrix4(t),qi[5].set(this.max.x,this.min.y,this.max.z).applyMatrix4(t),qi[6].set(this.max.x,this.max.y,this.min.z).applyMatrix4(t),qi[7].set(this.max.x,this.max.y,this.max.z).applyMatrix4(t),this.setFromPoints(qi),this)}translate(t){return this.min.add(t),this.max.add(t),this}equals(t){return t.min.equals(this.min)&&t.max.equals(this.max)}toJSON(){return{min:this.min.toArray(),max:this.max.toArray()}}fromJSON(t){return this.min.fromArray(t.min),this.max.fromArray(t.max),this}},qi=[new N,new N,new N,new N,new N,new N,new N,new N],mi=new N,qa=new pn,vs=new N,Ss=new N,Ms=new N,cn=new N,hn=new N,Xn=new N,gr=new N,$a=new N,Ya=new N,qn=new N;function ph(i,t,e,n,s){for(let r=0,a=i.length-3;r<=a;r+=3){qn.fromArray(i,r);let o=s.x*Math.abs(qn.x)+s.y*Math.abs(qn.y)+s.z*Math.abs(qn.z),l=t.dot(qn),c=e.dot(qn),h=n.dot(qn);if(Math.max(-Math.max(l,c,h),Math.min(l,c,h))>o)return!1}return!0}var xe=new N,Za=new Ot,Kx=0,Pi=class extends gi{constructor(t,e,n=!1){if(super(),Array.isArray(t))throw new TypeError("THREE.BufferAttribute: array should be a Typed Array.");this.isBufferAttribute=!0,Object.defineProperty(this,"id",{value:Kx++}),this.name="",this.array=t,this.itemSize=e,this.count=t!==void 0?t.length/e:0,this.normalized=n,this.usage=rm,this.updateRanges=[],this.gpuType=xi,this.version=0,this._normalizationScale=t!==void 0?su(t):void 0}onUploadCallback(){}set needsUpdate(t){t===!0&&this.version++}setUsage(t){return this.usage=t,this}addUpdateRange(t,e){this.updateRanges.push({start:t,count:e})}clearUpdateRanges(){this.updateRanges.length=0}copy(t){return this.name=t.name,this.array=new t.array.constructor(t.array),this.itemSize=t.itemSize,this.count=t.count,this.normalized=t.normalized,this.usage=t.usage,this.gpuType=t.gpuType,this._normalizationScale=t._normalizationScale,this}copyAt(t,e,n){t*=this.itemSize,n*=e.itemSize;for(let s=0,r=this.itemSize;s<r;s++)this.array[t+s]=e.array[n+s];return this}copyArray(t){return this.array.set(t),this}applyMatrix3(t){if(this.itemSize===2)for(let e=0,n=this.count;e<n;e++)Za.fromBufferAttribute(this,e),Za.applyMatrix3(t),this.setXY(e,Za.x,Za.y);else if(this.itemSize===3)for(let e=0,n=this.count;e<n;e++)xe.fromBufferAttribute(this,e),xe.applyMatrix3(t),this.setXYZ(e,xe.x,xe.y,xe.z);return this}applyMatrix4(t){for(let e=0,n=this.count;e<n;e++)xe.fromBufferAttribute(this,e),xe.applyMatrix4(t),this.setXYZ(e,xe.x,xe.y,xe.z);return this}applyNormalMatrix(t){for(let e=0,n=this.count;e<n;e++)xe.fromBufferAttribute(this,e),xe.applyNormalMatrix(t),this.setXYZ(e,xe.x,xe.y,xe.z);return this}transformDirection(t){for(let e=0,n=this.count;e<n;e++)xe.fromBufferAttribute(this,e),xe.transformDirection(t),this.setXYZ(e,xe.x,xe.y,xe.z);return this}set(t,e=0){return this.array.set(t,e),this}getComponent(t,e){let n=this.array[t*this.itemSize+e];return this.normalized&&(n=this._denormalize(n)),n}setComponent(t,e,n){return this.normalized&&(n=this._normalize(n)),this.array[t*this.itemSize+e]=n,this}getX(t){let e=this.array[t*this.itemSize];return this.normalized&&(e=this._denormalize(e)),e}setX(t,e){return this.normalized&&(e=this._normalize(e)),this.array[t*this.itemSize]=e,this}getY(t){let e=this.array[t*this.itemSize+1];return this.normalized&&(e=this._denormalize(e)),e}setY(t,e){return this.normalized&&(e=this._normalize(e)),this.array[t*this.itemSize+1]=e,this}getZ(t){let e=this.array[t*this.itemSize+2];return this.normalized&&(e=this._denormalize(e)),e}setZ(t,e){return this.normalized&&(e=this._normalize(e)),this.array[t*this.itemSize+2]=e,this}getW(t){let e=this.array[t*this.itemSize+3];return this.normalized&&(e=this._denormalize(e)),e}setW(t,e){return this.normalized&&(e=this._normalize(e)),this.array[t*this.itemSize+3]=e,this}setXY(t,e,n){return t*=this.itemSize,this.normalized&&(e=this._normalize(e),n=this._normalize(n)),this.array[t+0]=e,this.array[t+1]=n,this}setXYZ(t,e,n,s){return t*=this.itemSize,this.normalized&&(e=this._normalize(e),n=this._normalize(n),s=this._normalize(s)),this.array[t+0]=e,this.array[t+1]=n,this.array[t+2]=s,this}setXYZW(t,e,n,s,r){return t*=this.itemSize,this.normalized&&(e=this._normalize(e),n=this._normalize(n),s=this._normalize(s),r=this._normalize(r)),this.array[t+0]=e,this.array[t+1]=n,this.array[t+2]=s,this.array[t+3]=r,this}onUpload(t){return this.onUploadCallback=t,this}clone(){return new this.constructor(this.array,this.itemSize).copy(this)}toJSON(){let t={itemSize:this.itemSize,type:this.array.constructor.name,array:Array.from(this.array),normalized:this.normalized};return t.name=this.name,t.usage=this.usage,t.gpuType=this.gpuType,t}dispose(){this.dispatchEvent({type:"dispose"})}_denormalize(t){let e=this._normalizationScale;return e!==void 0?Math.max(t/e,-1):hm(t,this.array)}_normalize(t){let e=this._normalizationScale;return e!==void 0?Math.round(t*e):um(t,this.array)}};var Ir=class extends Pi{constructor(t,e,n){super(new Uint16Array(t),e,n)}};var Lr=class extends Pi{constructor(t,e,n){super(new Uint32Array(t),e,n)}};var me=class extends Pi{constructor(t,e,n){super(new Float32Array(t),e,n)}},Jx=new pn,_r=new N,mh=new N,mn=class{constructor(t=new N,e=-1){this.isSphere=!0,this.center=t,this.radius=e}set(t,e){return this.center.copy(t),this.radius=e,this}setFromPoints(t,e){let n=this.center;e!==void 0?n.copy(e):Jx.setFromPoints(t).getCenter(n);let s=0;for(let r=0,a=t.length;r<a;r++)s=Math.max(s,n.distanceToSquared(t[r]));return this.radius=Math.sqrt(s),this}copy(t){return this.center.copy(t.center),this.radius=t.radius,this}isEmpty(){return this.radius<0}makeEmpty(){return this.center.set(0,0,0),this.radius=-1,this}containsPoint(t){return t.distanceToSquared(this.center)<=this.radius*this.radius}distanceToPoint(t){return t.distanceTo(this.center)-this.radius}intersectsSphere(t){let e=this.radius+t.radius;return t.center.distanceToSquared(this.center)<=e*e}intersectsBox(t){return t.intersectsSphere(this)}intersectsPlane(t){return Math.abs(t.distanceToPoint(this.center))<=this.radius}clampPoint(t,e){let n=this.center.distanceToSquared(t);return e.copy(t),n>this.radius*this.radius&&(e.sub(this.center).normalize(),e.multiplyScalar(this.radius).add(this.center)),e}getBoundingBox(t){return this.isEmpty()?(t.makeEmpty(),t):(t.set(this.center,this.center),t.expandByScalar(this.radius),t)}applyMatrix4(t){return this.center.applyMatrix4(t),this.radius=this.radius*t.getMaxScaleOnAxis(),this}translate(t){return this.center.add(t),this}expandByPoint(t){if(this.isEmpty())return this.center.copy(t),this.radius=0,this;_r.subVectors(t,this.center);let e=_r.lengthSq();if(e>this.radius*this.radius){let n=Math.sqrt(e),s=(n-this.radius)*.5;this.center.addScaledVector(_r,s/n),this.radius+=s}return this}union(t){return t.isEmpty()?this:this.isEmpty()?(this.copy(t),this):(this.center.equals(t.center)===!0?this.radius=Math.max(this.radius,t.radius):(mh.subVectors(t.center,this.center).setLength(t.radius),this.expandByPoint(_r.copy(t.center).add(mh)),this.expandByPoint(_r.copy(t.center).sub(mh))),this)}equals(t){return t.center.equals(this.center)&&t.radius===this.radius}clone(){return new this.constructor().copy(this)}toJSON(){return{radius:this.radius,center:this.center.toArray()}}fromJSON(t){return this.radius=t.radius,this.center.fromArray(t.center),this}},jx=0,li=new se,gh=new $e,bs=new N,Ke=new pn,xr=new pn,Ce=new N,Fe=class i extends gi{constructor(){super(),this.isBufferGeometry=!0,Object.defineProperty(this,"id",{value:jx++}),this.uuid=Gs(),this.name="",this.type="BufferGeometry",this.index=null,this.indirect=null,this.indirectOffset=0,this.attributes={},this.morphAttributes={},this.morphTargetsRelative=!1,this.groups=[],this.boundingBox=null,this.boundingSphere=null,this.drawRange={start:0,count:1/0},this.userData={},this._transformed=!1}getIndex(){return this.index}setIndex(t){return Array.isArray(t)?this.index=new(bx(t)?Lr:Ir)(t,1):this.index=t,this}setIndirect(t,e=0){return this.indirect=t,this.indirectOffset=e,this}getIndirect(){return this.indirect}getAttribute(t){return this.attributes[t]}setAttribute(t,e){return this.attributes[t]=e,this}deleteAttribute(t){return delete this.attributes[t],this}hasAttribute(t){return this.attributes[t]!==void 0}addGroup(t,e,n=0){this.groups.push({start:t,count:e,materialIndex:n})}clearGroups(){this.groups=[]}setDrawRange(t,e){this.drawRange.start=t,this.drawRange.count=e}applyMatrix4(t){let e=this.attributes.position;e!==void 0&&(e.applyMatrix4(t),e.needsUpdate=!0);let n=this.attributes.normal;if(n!==void 0){let r=new Pt().getNormalMatrix(t);n.applyNormalMatrix(r),n.needsUpdate=!0}let s=this.attributes.tangent;return s!==void 0&&(s.transformDirection(t),s.needsUpdate=!0),this.boundingBox!==null&&this.computeBoundingBox(),this.boundingSphere!==null&&this.computeBoundingSphere(),this._transformed=!0,this}applyQuaternion(t){return li.makeRotationFromQuaternion(t),this.applyMatrix4(li),this}rotateX(t){return li.makeRotationX(t),this.applyMatrix4(li),this}rotateY(t){return li.makeRotationY(t),this.applyMatrix4(li),this}rotateZ(t){return li.makeRotationZ(t),this.applyMatrix4(li),this}translate(t,e,n){return li.makeTranslation(t,e,n),this.applyMatrix4(li),this}scale(t,e,n){return li.makeScale(t,e,n),this.applyMatrix4(li),this}lookAt(t){return gh.lookAt(t),gh.updateMatrix(),this.applyMatrix4(gh.matrix),this}center(){return this.computeBoundingBox(),this.boundingBox.getCenter(bs).negate(),this.translate(bs.x,bs.y,bs.z),this}setFromPoints(t){let e=this.getAttribute("position");if(e===void 0){let n=[];for(let s=0,r=t.length;s<r;s++){let a=t[s];n.push(a.x,a.y,a.z||0)}this.setAttribute("position",new me(n,3))}else{let n=Math.min(t.length,e.count);for(let s=0;s<n;s++){let r=t[s];e.setXYZ(s,r.x,r.y,r.z||0)}t.length>e.count&&Et("BufferGeometry: Buffer size too small for points data. Use .dispose() and create a new geometry."),e.needsUpdate=!0}return this}computeBoundingBox(){this.boundingBox===null&&(this.boundingBox=new pn);let t=this.attributes.position,e=this.morphAttributes.position;if(t&&t.isGLBufferAttribute){Ct("BufferGeometry.computeBoundingBox(): GLBufferAttribute requires a manual bounding box.",this),this.boundingBox.set(new N(-1/0,-1/0,-1/0),new N(1/0,1/0,1/0));return}if(t!==void 0){if(this.boundingBox.setFromBufferAttribute(t),e)for(let n=0,s=e.length;n<s;n++){let r=e[n];Ke.setFromBufferAttribute(r),this.morphTargetsRelative?(Ce.addVectors(this.boundingBox.min,Ke.min),this.boundingBox.expandByPoint(Ce),Ce.addVectors(this.boundingBox.max,Ke.max),this.boundingBox.expandByPoint(Ce)):(this.boundingBox.expandByPoint(Ke.min),this.boundingBox.expandByPoint(Ke.max))}}else this.boundingBox.makeEmpty();(isNaN(this.boundingBox.min.x)||isNaN(this.boundingBox.min.y)||isNaN(this.boundingBox.min.z))&&Ct('BufferGeometry.computeBoundingBox(): Computed min/max have NaN values. The "position" attribute is likely to have NaN values.',this)}computeBoundingSphere(){this.boundingSphere===null&&(this.boundingSphere=new mn);let t=this.attributes.position,e=this.morphAttributes.position;if(t&&t.isGLBufferAttribute){Ct("BufferGeometry.computeBoundingSphere(): GLBufferAttribute requires a manual bounding sphere.",this),this.boundingSphere.set(new N,1/0);return}if(t){let n=this.boundingSphere.center;if(Ke.setFromBufferAttribute(t),e)for(let r=0,a=e.length;r<a;r++){let o=e[r];xr.setFromBufferAttribute(o),this.morphTargetsRelative?(Ce.addVectors(Ke.min,xr.min),Ke.expandByPoint(Ce),Ce.addVectors(Ke.max,xr.max),Ke.expandByPoint(Ce)):(Ke.expandByPoint(xr.min),Ke.expandByPoint(xr.max))}Ke.getCenter(n);let s=0;for(let r=0,a=t.count;r<a;r++)Ce.fromBufferAttribute(t,r),s=Math.max(s,n.distanceToSquared(Ce));if(e)for(let r=0,a=e.length;r<a;r++){let o=e[r],l=this.morphTargetsRelative;for(let c=0,h=o.count;c<h;c++)Ce.fromBufferAttribute(o,c),l&&(bs.fromBufferAttribute(t,c),Ce.add(bs)),s=Math.max(s,n.distanceToSquared(Ce))}this.boundingSphere.radius=Math.sqrt(s),isNaN(this.boundingSphere.radius)&&Ct('BufferGeometry.computeBoundingSphere(): Computed radius is NaN. The "position" attribute is likely to have NaN values.',this)}}computeTangents(){let t=this.index,e=this.attributes;if(t===null||e.position===void 0||e.normal===void 0||e.uv===void 0){Ct("BufferGeometry: .computeTangents() failed. Missing required attributes (index, position, normal or uv)");return}let n=e.position,s=e.normal,r=e.uv,a=this.getAttribute("tangent");(a===void 0||a.count!==n.count)&&(a=new Pi(new Float32Array(4*n.count),4),this.setAttribute("tangent",a));let o=[],l=[],c=new Uint8Array(n.count);for(let k=0;k<n.count;k++)o[k]=new N,l[k]=new N;let h=new N,d=new N,u=new N,m=new Ot,g=new Ot,_=new Ot,f=new N,p=new N;function S(k,I,D){c[k]=c[I]=c[D]=1,h.fromBufferAttribute(n,k),d.fromBufferAttribute(n,I),u.fromBufferAttribute(n,D),m.fromBufferAttribute(r,k),g.fromBufferAttribute(r,I),_.fromBufferAttribute(r,D),d.sub(h),u.sub(h),g.sub(m),_.sub(m);let z=1/(g.x*_.y-_.x*g.y);isFinite(z)&&(f.copy(d).multiplyScalar(_.y).addScaledVector(u,-g.y).multiplyScalar(z),p.copy(u).multiplyScalar(g.x).addScaledVector(d,-_.x).multiplyScalar(z),o[k].add(f),o[I].add(f),o[D].add(f),l[k].add(p),l[I].add(p),l[D].add(p))}let T=this.groups;T.length===0&&(T=[{start:0,count:t.count}]);for(let k=0,I=T.length;k<I;++k){let D=T[k],z=D.start,q=D.count;for(let P=z,W=z+q;P<W;P+=3)S(t.getX(P+0),t.getX(P+1),t.getX(P+2))}let w=new N,R=new N,E=new N,x=new N;function b(k){E.fromBufferAttribute(s,k),x.copy(E);let I=o[k];w.copy(I),w.sub(E.multiplyScalar(E.dot(I))).normalize(),R.crossVectors(x,I);let z=R.dot(l[k])<0?-1:1;a.setXYZW(k,w.x,w.y,w.z,z)}for(let k=0,I=n.count;k<I;++k)c[k]&&b(k);this._transformed=!0}computeVertexNormals(){let t=this.index,e=this.getAttribute("position");if(e!==void 0){let n=this.getAttribute("normal");if(n===void 0||n.count!==e.count)n=new Pi(new Float32Array(e.count*3),3),this.setAttribute("normal",n);else for(let u=0,m=n.count;u<m;u++)n.setXYZ(u,0,0,0);let s=new N,r=new N,a=new N,o=new N,l=new N,c=new N,h=new N,d=new N;if(t)for(let u=0,m=t.count;u<m;u+=3){let g=t.getX(u+0),_=t.getX(u+1),f=t.getX(u+2);s.fromBufferAttribute(e,g),r.fromBufferAttribute(e,_),a.fromBufferAttribute(e,f),h.subVectors(a,r),d.subVectors(s,r),h.cross(d),o.fromBufferAttribute(n,g),l.fromBufferAttribute(n,_),c.fromBufferAttribute(n,f),o.add(h),l.add(h),c.add(h),n.setXYZ(g,o.x,o.y,o.z),n.setXYZ(_,l.x,l.y,l.z),n.setXYZ(f,c.x,c.y,c.z)}else for(let u=0,m=e.count;u<m;u+=3)s.fromBufferAttribute(e,u+0),r.fromBufferAttribute(e,u+1),a.fromBufferAttribute(e,u+2),h.subVectors(a,r),d.subVectors(s,r),h.cross(d),n.setXYZ(u+0,h.x,h.y,h.z),n.setXYZ(u+1,h.x,h.y,h.z),n.setXYZ(u+2,h.x,h.y,h.z);this.normalizeNormals(),n.needsUpdate=!0}}normalizeNormals(){let t=this.attributes.normal;for(let e=0,n=t.count;e<n;e++)Ce.fromBufferAttribute(t,e),Ce.normalize(),t.setXYZ(e,Ce.x,Ce.y,Ce.z)}toNonIndexed(){function t(o,l){let c=o.array,h=o.itemSize,d=o.normalized,u=new c.constructor(l.length*h),m=0,g=0;for(let _=0,f=l.length;_<f;_++){o.isInterleavedBufferAttribute?m=l[_]*o.data.stride+o.offset:m=l[_]*h;for(let p=0;p<h;p++)u[g++]=c[m++]}return new Pi(u,h,d)}if(this.index===null)return Et("BufferGeometry.toNonIndexed(): BufferGeometry is already non-indexed."),this;let e=new i,n=this.index.array,s=this.attributes;for(let o in s){let l=s[o],c=t(l,n);e.setAttribute(o,c)}let r=this.morphAttributes;for(let o in r){let l=[],c=r[o];for(let h=0,d=c.length;h<d;h++){let u=c[h],m=t(u,n);l.push(m)}e.morphAttributes[o]=l}e.morphTargetsRelative=this.morphTargetsRelative;let a=this.groups;for(let o=0,l=a.length;o<l;o++){let c=a[o];e.addGroup(c.start,c.count,c.materialIndex)}return e}toJSON(){let t={metadata:{version:4.7,type:"BufferGeometry",generator:"BufferGeometry.toJSON"}};if(t.uuid=this.uuid,t.type=this.parameters!==void 0&&this._transformed===!0?"BufferGeometry":this.type,t.name=this.name,Object.keys(this.userData).length>0&&(t.userData=this.userData),this.parameters!==void 0&&this._transformed!==!0){let l=this.parameters;for(let c in l)l[c]!==void 0&&(t[c]=l[c]);return t}t.data={attributes:{}};let e=this.index;e!==null&&(t.data.index={type:e.array.constructor.name,array:Array.prototype.slice.call(e.array)});let n=this.attributes;for(let l in n){let c=n[l];t.data.attributes[l]=c.toJSON(t.data)}let s={},r=!1;for(let l in this.morphAttributes){let c=this.morphAttributes[l],h=[];for(let d=0,u=c.length;d<u;d++){let m=c[d];h.push(m.toJSON(t.data))}h.length>0&&(s[l]=h,r=!0)}r&&(t.data.morphAttributes=s,t.data.morphTargetsRelative=this.morphTargetsRelative);let a=this.groups;a.length>0&&(t.data.groups=JSON.parse(JSON.stringify(a)));let o=this.boundingSphere;return o!==null&&(t.data.boundingSphere=o.toJSON()),t}clone(){return new this.constructor().copy(this)}copy(t){this.index=null,this.attributes={},this.morphAttributes={},this.groups=[],this.boundingBox=null,this.boundingSphere=null;let e={};this.name=t.name;let n=t.index;n!==null&&this.setIndex(n.clone());let s=t.attributes;for(let c in s){let h=s[c];this.setAttribute(c,h.clone(e))}let r=t.morphAttributes;for(let c in r){let h=[],d=r[c];for(let u=0,m=d.length;u<m;u++)h.push(d[u].clone(e));this.morphAttributes[c]=h}this.morphTargetsRelative=t.morphTargetsRelative;let a=t.groups;for(let c=0,h=a.length;c<h;c++){let d=a[c];this.addGroup(d.start,d.count,d.materialIndex)}let o=t.boundingBox;o!==null&&(this.boundingBox=o.clone());let l=t.boundingSphere;return l!==null&&(this.boundingSphere=l.clone()),this.drawRange.start=t.drawRange.start,this.drawRange.count=t.drawRange.count,this.userData=t.userData,this._transformed=t._transformed,this}dispose(){this.dispatchEvent({type:"dispose"})}};var _h=new N,Qx=new N,ty=new Pt,je=class{constructor(t=new N(1,0,0),e=0){this.isPlane=!0,this.normal=t,this.constant=e}set(t,e){return this.normal.copy(t),this.constant=e,this}setComponents(t,e,n,s){return this.normal.set(t,e,n),this.constant=s,this}setFromNormalAndCoplanarPoint(t,e){return this.normal.copy(t),this.constant=-e.dot(this.normal),this}setFromCoplanarPoints(t,e,n){let s=_h.subVectors(n,e).cross(Qx.subVectors(t,e)).normalize();return this.setFromNormalAndCoplanarPoint(s,t),this}copy(t){return this.normal.copy(t.normal),this.constant=t.constant,this}normalize(){let t=1/this.normal.length();return this.normal.multiplyScalar(t),this.constant*=t,this}negate(){return this.constant*=-1,this.normal.negate(),this}distanceToPoint(t){return this.normal.dot(t)+this.constant}distanceToSphere(t){return this.distanceToPoint(t.center)-t.radius}projectPoint(t,e){return e.copy(t).addScaledVector(this.normal,-this.distanceToPoint(t))}intersectLine(t,e,n=!0){let s=t.delta(_h),r=this.normal.dot(s);if(r===0)return this.distanceToPoint(t.start)===0?e.copy(t.start):null;let a=-(t.start.dot(this.normal)+this.constant)/r;return n===!0&&(a<0||a>1)?null:e.copy(t.start).addScaledVector(s,a)}intersectsLine(t){let e=this.distanceToPoint(t.start),n=this.distanceToPoint(t.end);return e<0&&n>0||n<0&&e>0}intersectsBox(t){return t.intersectsPlane(this)}intersectsSphere(t){return t.intersectsPlane(this)}coplanarPoint(t){return t.copy(this.normal).multiplyScalar(-this.constant)}applyMatrix4(t,e){let n=e||ty.getNormalMatrix(t),s=this.coplanarPoint(_h).applyMatrix4(t),r=this.normal.applyMatrix3(n).normalize();return this.constant=-s.dot(r),this}translate(t){return this.constant-=t.dot(this.normal),this}equals(t){return t.normal.equals(this.normal)&&t.constant===this.constant}clone(){return new this.constructor().copy(this)}toJSON(){return{normal:this.normal.toArray(),constant:this.constant}}fromJSON(t){return this.normal.fromArray(t.normal),this.constant=t.constant,this}},ey=0,Ki=class extends gi{constructor(){super(),this.isMaterial=!0,Object.defineProperty(this,"id",{value:ey++}),this.uuid=Gs(),this.name="",this.type="Material",this.blending=zs,this.side=bn,this.vertexColors=!1,this.opacity=1,this.transparent=!1,this.alphaHash=!1,this.blendSrc=Lh,this.blendDst=Dh,this.blendEquation=jn,this.blendSrcAlpha=null,this.blendDstAlpha=null,this.blendEquationAlpha=null,this.blendColor=new Ht(0,0,0),this.blendAlpha=0,this.depthFunc=Rs,this.depthTest=!0,this.depthWrite=!0,this.stencilWriteMask=255,this.stencilFunc=Qp,this.stencilRef=0,this.stencilFuncMask=255,this.stencilFail=mo,this.stencilZFail=mo,this.stencilZPass=mo,this.stencilWrite=!1,this.clippingPlanes=null,this.clipIntersection=!1,this.clipShadows=!1,this.shadowSide=null,this.colorWrite=!0,this.precision=null,this.polygonOffset=!1,this.polygonOffsetFactor=0,this.polygonOffsetUnits=0,this.dithering=!1,this.alphaToCoverage=!1,this.premultipliedAlpha=!1,this.forceSinglePass=!1,this.allowOverride=!0,this.visible=!0,this.toneMapped=!0,this.userData={},this.version=0,this._alphaTest=0}get alphaTest(){return this._alphaTest}set alphaTest(t){this._alphaTest>0!=t>0&&this.version++,this._alphaTest=t}onBeforeRender(){}onBeforeCompile(){}customProgramCacheKey(){return this.onBeforeCompile.toString()}setValues(t){if(t!==void 0)for(let e in t){let n=t[e];if(n===void 0){Et(`Material: parameter '${e}' has value of undefined.`);continue}let s=this[e];if(s===void 0){Et(`Material: '${e}' is not a property of THREE.${this.type}.`);continue}s&&s.isColor?s.set(n):s&&s.isVector2&&n&&n.isVector2||s&&s.isEuler&&n&&n.isEuler||s&&s.isVector3&&n&&n.isVector3?s.copy(n):this[e]=n}}toJSON(t){let e=t===void 0||typeof t=="string";e&&(t={textures:{},images:{}});let n={metadata:{version:4.7,type:"Material",generator:"Material.toJSON"}};n.uuid=this.uuid,n.type=this.type,n.blending=this.blending,n.side=this.side,n.shadowSide=this.shadowSide,n.vertexColors=this.vertexColors,n.opacity=this.opacity,n.transparent=this.transparent,n.blendSrc=this.blendSrc,n.blendDst=this.blendDst,n.blendEquation=this.blendEquation,n.blendSrcAlpha=this.blendSrcAlpha,n.blendDstAlpha=this.blendDstAlpha,n.blendEquationAlpha=this.blendEquationAlpha,n.blendColor=this.blendColor.getHex(),n.blendAlpha=this.blendAlpha,n.depthFunc=this.depthFunc,n.depthTest=this.depthTest,n.depthWrite=this.depthWrite,n.colorWrite=this.colorWrite,n.clipIntersection=this.clipIntersection,n.clipShadows=this.clipShadows,n.stencilWriteMask=this.stencilWriteMask,n.stencilFunc=this.stencilFunc,n.stencilRef=this.stencilRef,n.stencilFuncMask=this.stencilFuncMask,n.stencilFail=this.stencilFail,n.stencilZFail=this.stencilZFail,n.stencilZPass=this.stencilZPass,n.stencilWrite=this.stencilWrite,n.polygonOffset=this.polygonOffset,n.polygonOffsetFactor=this.polygonOffsetFactor,n.polygonOffsetUnits=this.polygonOffsetUnits,n.dithering=this.dithering,n.alphaTest=this.alphaTest,n.alphaHash=this.alphaHash,n.alphaToCoverage=this.alphaToCoverage,n.premultipliedAlpha=this.premultipliedAlpha,n.forceSinglePass=this.forceSinglePass,n.allowOverride=this.allowOverride,n.visible=this.visible,n.toneMapped=this.toneMapped,n.name=this.name,this.color&&this.color.isColor&&(n.color=this.color.getHex()),this.roughness!==void 0&&(n.roughness=this.roughness),this.metalness!==void 0&&(n.metalness=this.metalness),this.sheen!==void 0&&(n.sheen=this.sheen),this.sheenColor&&this.sheenColor.isColor&&(n.sheenColor=this.sheenColor.getHex()),this.sheenRoughness!==void 0&&(n.sheenRoughness=this.sheenRoughness),this.emissive&&this.emissive.isColor&&(n.emissive=this.emissive.getHex()),this.emissiveIntensity!==void 0&&(n.emissiveIntensity=this.emissiveIntensity),this.specular&&this.specular.isColor&&(n.specular=this.specular.getHex()),this.specularIntensity!==void 0&&(n.specularIntensity=this.specularIntensity),this.specularColor&&this.specularColor.isColor&&(n.specularColor=this.specularColor.getHex()),this.shininess!==void 0&&(n.shininess=this.shininess),this.clearcoat!==void 0&&(n.clearcoat=this.clearcoat),this.clearcoatRoughness!==void 0&&(n.clearcoatRoughness=this.clearcoatRoughness),this.diffuseRoughness!==void 0&&(n.diffuseRoughness=this.diffuseRoughness),this.diffuseRoughnessMap&&this.diffuseRoughnessMap.isTexture&&(n.diffuseRoughnessMap=this.diffuseRoughnessMap.toJSON(t).uuid),this.clearcoatMap&&this.clearcoatMap.isTexture&&(n.clearcoatMap=this.clearcoatMap.toJSON(t).uuid),this.clearcoatRoughnessMap&&this.clearcoatRoughnessMap.isTexture&&(n.clearcoatRoughnessMap=this.clearcoatRoughnessMap.toJSON(t).uuid),this.clearcoatNormalMap&&this.clearcoatNormalMap.isTexture&&(n.clearcoatNormalMap=this.clearcoatNormalMap.toJSON(t).uuid,n.clearcoatNormalScale=this.clearcoatNormalScale.toArray()),this.sheenColorMap&&this.sheenColorMap.isTexture&&(n.sheenColorMap=this.sheenColorMap.toJSON(t).uuid),this.sheenRoughnessMap&&this.sheenRoughnessMap.isTexture&&(n.sheenRoughnessMap=this.sheenRoughnessMap.toJSON(t).uuid),this.dispersion!==void 0&&(n.dispersion=this.dispersion),this.retroreflectivity!==void 0&&(n.retroreflectivity=this.retroreflectivity),this.iridescence!==void 0&&(n.iridescence=this.iridescence),this.iridescenceIOR!==void 0&&(n.iridescenceIOR=this.iridescenceIOR),this.iridescenceThicknessMinimum!==void 0&&(n.iridescenceThicknessMinimum=this.iridescenceThicknessMinimum),this.iridescenceThicknessMaximum!==void 0&&(n.iridescenceThicknessMaximum=this.iridescenceThicknessMaximum),this.iridescenceMap&&this.iridescenceMap.isTexture&&(n.iridescenceMap=this.iridescenceMap.toJSON(t).uuid),this.iridescenceThicknessMap&&this.iridescenceThicknessMap.isTexture&&(n.iridescenceThicknessMap=this.iridescenceThicknessMap.toJSON(t).uuid),this.anisotropy!==void 0&&(n.anisotropy=this.anisotropy),this.anisotropyRotation!==void 0&&(n.anisotropyRotation=this.anisotropyRotation),this.anisotropyMap&&this.anisotropyMap.isTexture&&(n.anisotropyMap=this.anisotropyMap.toJSON(t).uuid),this.map&&this.map.isTexture&&(n.map=this.map.toJSON(t).uuid),this.matcap&&this.matcap.isTexture&&(n.matcap=this.matcap.toJSON(t).uuid),this.alphaMap&&this.alphaMap.isTexture&&(n.alphaMap=this.alphaMap.toJSON(t).uuid),this.lightMap&&this.lightMap.isTexture&&(n.lightMap=this.lightMap.toJSON(t).uuid,n.lightMapIntensity=this.lightMapIntensity),this.aoMap&&this.aoMap.isTexture&&(n.aoMap=this.aoMap.toJSON(t).uuid,n.aoMapIntensity=this.aoMapIntensity),this.bumpMap&&this.bumpMap.isTexture&&(n.bumpMap=this.bumpMap.toJSON(t).uuid,n.bumpScale=this.bumpScale),this.normalMap&&this.normalMap.isTexture&&(n.normalMap=this.normalMap.toJSON(t).uuid,n.normalMapType=this.normalMapType,n.normalScale=this.normalScale.toArray()),this.displacementMap&&this.displacementMap.isTexture&&(n.displacementMap=this.displacementMap.toJSON(t).uuid,n.displacementScale=this.displacementScale,n.displacementBias=this.displacementBias),this.roughnessMap&&this.roughnessMap.isTexture&&(n.roughnessMap=this.roughnessMap.toJSON(t).uuid),this.metalnessMap&&this.metalnessMap.isTexture&&(n.metalnessMap=this.metalnessMap.toJSON(t).uuid),this.emissiveMap&&this.emissiveMap.isTexture&&(n.emissiveMap=this.emissiveMap.toJSON(t).uuid),this.specularMap&&this.specularMap.isTexture&&(n.specularMap=this.specularMap.toJSON(t).uuid),this.specularIntensityMap&&this.specularIntensityMap.isTexture&&(n.specularIntensityMap=this.specularIntensityMap.toJSON(t).uuid),this.specularColorMap&&this.specularColorMap.isTexture&&(n.specularColorMap=this.specularColorMap.toJSON(t).uuid),this.envMap&&this.envMap.isTexture&&(n.envMap=this.envMap.toJSON(t).uuid,this.combine!==void 0&&(n.combine=this.combine)),this.envMapRotation!==void 0&&(n.envMapRotation=this.envMapRotation.toArray()),this.envMapIntensity!==void 0&&(n.envMapIntensity=this.envMapIntensity),this.reflectivity!==void 0&&(n.reflectivity=this.reflectivity),this.refractionRatio!==void 0&&(n.refractionRatio=this.refractionRatio),this.gradientMap&&this.gradientMap.isTexture&&(n.gradientMap=this.gradientMap.toJSON(t).uuid),this.transmission!==void 0&&(n.transmission=this.transmission),this.transmissionMap&&this.transmissionMap.isTexture&&(n.transmissionMap=this.transmissionMap.toJSON(t).uuid),this.thickness!==void 0&&(n.thickness=this.thickness),this.thicknessMap&&this.thicknessMap.isTexture&&(n.thicknessMap=this.thicknessMap.toJSON(t).uuid),this.attenuationDistance!==void 0&&(n.attenuationDistance=this.attenuationDistance),this.attenuationColor!==void 0&&(n.attenuationColor=this.attenuationColor.getHex()),this.size!==void 0&&(n.size=this.size),this.sizeAttenuation!==void 0&&(n.sizeAttenuation=this.sizeAttenuation),Array.isArray(this.clippingPlanes)&&this.clippingPlanes.length>0&&(n.clippingPlanes=this.clippingPlanes.map(r=>r.toJSON())),this.rotation!==void 0&&(n.rotation=this.rotation),this.depthPacking!==void 0&&(n.depthPacking=this.depthPacking),this.linewidth!==void 0&&(n.linewidth=this.linewidth),this.linecap!==void 0&&(n.linecap=this.linecap),this.linejoin!==void 0&&(n.linejoin=this.linejoin),this.dashSize!==void 0&&(n.dashSize=this.dashSize),this.gapSize!==void 0&&(n.gapSize=this.gapSize),this.scale!==void 0&&(n.scale=this.scale),this.wireframe!==void 0&&(n.wireframe=this.wireframe),this.wireframeLinewidth!==void 0&&(n.wireframeLinewidth=this.wireframeLinewidth),this.wireframeLinecap!==void 0&&(n.wireframeLinecap=this.wireframeLinecap),this.wireframeLinejoin!==void 0&&(n.wireframeLinejoin=this.wireframeLinejoin),this.flatShading!==void 0&&(n.flatShading=this.flatShading),this.fog!==void 0&&(n.fog=this.fog),Object.keys(this.userData).length>0&&(n.userData=this.userData);function s(r){let a=[];for(let o in r){let l=r[o];delete l.metadata,a.push(l)}return a}if(e){let r=s(t.textures),a=s(t.images);r.length>0&&(n.textures=r),a.length>0&&(n.images=a)}return n}fromJSON(t,e){if(t.uuid!==void 0&&(this.uuid=t.uuid),t.name!==void 0&&(this.name=t.name),t.color!==void 0&&this.color!==void 0&&this.color.setHex(t.color),t.roughness!==void 0&&(this.roughness=t.roughness),t.metalness!==void 0&&(this.metalness=t.metalness),t.sheen!==void 0&&(this.sheen=t.sheen),t.sheenColor!==void 0&&(this.sheenColor=new Ht().setHex(t.sheenColor)),t.sheenRoughness!==void 0&&(this.sheenRoughness=t.sheenRoughness),t.emissive!==void 0&&this.emissive!==void 0&&this.emissive.setHex(t.emissive),t.specular!==void 0&&this.specular!==void 0&&this.specular.setHex(t.specular),t.specularIntensity!==void 0&&(this.specularIntensity=t.specularIntensity),t.specularColor!==void 0&&this.specularColor!==void 0&&this.specularColor.setHex(t.specularColor),t.shininess!==void 0&&(this.shininess=t.shininess),t.clearcoat!==void 0&&(this.clearcoat=t.clearcoat),t.clearcoatRoughness!==void 0&&(this.clearcoatRoughness=t.clearcoatRoughness),t.diffuseRoughness!==void 0&&(this.diffuseRoughness=t.diffuseRoughness),t.dispersion!==void 0&&(this.dispersion=t.dispersion),t.retroreflectivity!==void 0&&(this.retroreflectivity=t.retroreflectivity),t.iridescence!==void 0&&(this.iridescence=t.iridescence),t.iridescenceIOR!==void 0&&(this.iridescenceIOR=t.iridescenceIOR),t.iridescenceThicknessMinimum!==void 0&&(this.iridescenceThicknessMinimum=t.iridescenceThicknessMinimum),t.iridescenceThicknessMaximum!==void 0&&(this.iridescenceThicknessMaximum=t.iridescenceThicknessMaximum),t.iridescenceThicknessRange!==void 0&&(this.iridescenceThicknessMinimum=t.iridescenceThicknessRange[0],this.iridescenceThicknessMaximum=t.iridescenceThicknessRange[1]),t.transmission!==void 0&&(this.transmission=t.transmission),t.thickness!==void 0&&(this.thickness=t.thickness),t.attenuationDistance!==void 0&&(this.attenuationDistance=t.attenuationDistance),t.attenuationColor!==void 0&&this.attenuationColor!==void 0&&this.attenuationColor.setHex(t.attenuationColor),t.anisotropy!==void 0&&(this.anisotropy=t.anisotropy),t.anisotropyRotation!==void 0&&(this.anisotropyRotation=t.anisotropyRotation),t.fog!==void 0&&(this.fog=t.fog),t.flatShading!==void 0&&(this.flatShading=t.flatShading),t.blending!==void 0&&(this.blending=t.blending),t.combine!==void 0&&(this.combine=t.combine),t.side!==void 0&&(this.side=t.side),t.shadowSide!==void 0&&(this.shadowSide=t.shadowSide),t.opacity!==void 0&&(this.opacity=t.opacity),t.transparent!==void 0&&(this.transparent=t.transparent),t.alphaTest!==void 0&&(this.alphaTest=t.alphaTest),t.alphaHash!==void 0&&(this.alphaHash=t.alphaHash),t.depthFunc!==void 0&&(this.depthFunc=t.depthFunc),t.depthTest!==void 0&&(this.depthTest=t.depthTest),t.depthWrite!==void 0&&(this.depthWrite=t.depthWrite),t.colorWrite!==void 0&&(this.colorWrite=t.colorWrite),t.clippingPlanes!==void 0&&(this.clippingPlanes=t.clippingPlanes.map(n=>new je().fromJSON(n))),t.clipIntersection!==void 0&&(this.clipIntersection=t.clipIntersection),t.clipShadows!==void 0&&(this.clipShadows=t.clipShadows),t.depthPacking!==void 0&&(this.depthPacking=t.depthPacking),t.blendSrc!==void 0&&(this.blendSrc=t.blendSrc),t.blendDst!==void 0&&(this.blendDst=t.blendDst),t.blendEquation!==void 0&&(this.blendEquation=t.blendEquation),t.blendSrcAlpha!==void 0&&(this.blendSrcAlpha=t.blendSrcAlpha),t.blendDstAlpha!==void 0&&(this.blendDstAlpha=t.blendDstAlpha),t.blendEquationAlpha!==void 0&&(this.blendEquationAlpha=t.blendEquationAlpha),t.blendColor!==void 0&&this.blendColor!==void 0&&this.blendColor.setHex(t.blendColor),t.blendAlpha!==void 0&&(this.blendAlpha=t.blendAlpha),t.stencilWriteMask!==void 0&&(this.stencilWriteMask=t.stencilWriteMask),t.stencilFunc!==void 0&&(this.stencilFunc=t.stencilFunc),t.stencilRef!==void 0&&(this.stencilRef=t.stencilRef),t.stencilFuncMask!==void 0&&(this.stencilFuncMask=t.stencilFuncMask),t.stencilFail!==void 0&&(this.stencilFail=t.stencilFail),t.stencilZFail!==void 0&&(this.stencilZFail=t.stencilZFail),t.stencilZPass!==void 0&&(this.stencilZPass=t.stencilZPass),t.stencilWrite!==void 0&&(this.stencilWrite=t.stencilWrite),t.wireframe!==void 0&&(this.wireframe=t.wireframe),t.wireframeLinewidth!==void 0&&(this.wireframeLinewidth=t.wireframeLinewidth),t.wireframeLinecap!==void 0&&(this.wireframeLinecap=t.wireframeLinecap),t.wireframeLinejoin!==void 0&&(this.wireframeLinejoin=t.wireframeLinejoin),t.rotation!==void 0&&(this.rotation=t.rotation),t.linewidth!==void 0&&(this.linewidth=t.linewidth),t.linecap!==void 0&&(this.linecap=t.linecap),t.linejoin!==void 0&&(this.linejoin=t.linejoin),t.dashSize!==void 0&&(this.dashSize=t.dashSize),t.gapSize!==void 0&&(this.gapSize=t.gapSize),t.scale!==void 0&&(this.scale=t.scale),t.polygonOffset!==void 0&&(this.polygonOffset=t.polygonOffset),t.polygonOffsetFactor!==void 0&&(this.polygonOffsetFactor=t.polygonOffsetFactor),t.polygonOffsetUnits!==void 0&&(this.polygonOffsetUnits=t.polygonOffsetUnits),t.dithering!==void 0&&(this.dithering=t.dithering),t.alphaToCoverage!==void 0&&(this.alphaToCoverage=t.alphaToCoverage),t.premultipliedAlpha!==void 0&&(this.premultipliedAlpha=t.premultipliedAlpha),t.forceSinglePass!==void 0&&(this.forceSinglePass=t.forceSinglePass),t.allowOverride!==void 0&&(this.allowOverride=t.allowOverride),t.visible!==void 0&&(this.visible=t.visible),t.toneMapped!==void 0&&(this.toneMapped=t.toneMapped),t.userData!==void 0&&(this.userData=t.userData),t.vertexColors!==void 0&&(typeof t.vertexColors=="number"?this.vertexColors=t.vertexColors>0:this.vertexColors=t.vertexColors),t.size!==void 0&&(this.size=t.size),t.sizeAttenuation!==void 0&&(this.sizeAttenuation=t.sizeAttenuation),t.map!==void 0&&(this.map=e[t.map]||null),t.matcap!==void 0&&(this.matcap=e[t.matcap]||null),t.alphaMap!==void 0&&(this.alphaMap=e[t.alphaMap]||null),t.bumpMap!==void 0&&(this.bumpMap=e[t.bumpMap]||null),t.bumpScale!==void 0&&(this.bumpScale=t.bumpScale),t.normalMap!==void 0&&(this.normalMap=e[t.normalMap]||null),t.normalMapType!==void 0&&(this.normalMapType=t.normalMapType),t.normalScale!==void 0){let n=t.normalScale;Array.isArray(n)===!1&&(n=[n,n]),this.normalScale=new Ot().fromArray(n)}return t.displacementMap!==void 0&&(this.displacementMap=e[t.displacementMap]||null),t.displacementScale!==void 0&&(this.displacementScale=t.displacementScale),t.displacementBias!==void 0&&(this.displacementBias=t.displacementBias),t.roughnessMap!==void 0&&(this.roughnessMap=e[t.roughnessMap]||null),t.metalnessMap!==void 0&&(this.metalnessMap=e[t.metalnessMap]||null),t.emissiveMap!==void 0&&(this.emissiveMap=e[t.emissiveMap]||null),t.emissiveIntensity!==void 0&&(this.emissiveIntensity=t.emissiveIntensity),t.specularMap!==void 0&&(this.specularMap=e[t.specularMap]||null),t.specularIntensityMap!==void 0&&(this.specularIntensityMap=e[t.specularIntensityMap]||null),t.specularColorMap!==void 0&&(this.specularColorMap=e[t.specularColorMap]||null),t.envMap!==void 0&&(this.envMap=e[t.envMap]||null),t.envMapRotation!==void 0&&this.envMapRotation.fromArray(t.envMapRotation),t.envMapIntensity!==void 0&&(this.envMapIntensity=t.envMapIntensity),t.reflectivity!==void 0&&(this.reflectivity=t.reflectivity),t.refractionRatio!==void 0&&(this.refractionRatio=t.refractionRatio),t.lightMap!==void 0&&(this.lightMap=e[t.lightMap]||null),t.lightMapIntensity!==void 0&&(this.lightMapIntensity=t.lightMapIntensity),t.aoMap!==void 0&&(this.aoMap=e[t.aoMap]||null),t.aoMapIntensity!==void 0&&(this.aoMapIntensity=t.aoMapIntensity),t.gradientMap!==void 0&&(this.gradientMap=e[t.gradientMap]||null),t.clearcoatMap!==void 0&&(this.clearcoatMap=e[t.clearcoatMap]||null),t.clearcoatRoughnessMap!==void 0&&(this.clearcoatRoughnessMap=e[t.clearcoatRoughnessMap]||null),t.clearcoatNormalMap!==void 0&&(this.clearcoatNormalMap=e[t.clearcoatNormalMap]||null),t.clearcoatNormalScale!==void 0&&(this.clearcoatNormalScale=new Ot().fromArray(t.clearcoatNormalScale)),t.diffuseRoughnessMap!==void 0&&(this.diffuseRoughnessMap=e[t.diffuseRoughnessMap]||null),t.iridescenceMap!==void 0&&(this.iridescenceMap=e[t.iridescenceMap]||null),t.iridescenceThicknessMap!==void 0&&(this.iridescenceThicknessMap=e[t.iridescenceThicknessMap]||null),t.transmissionMap!==void 0&&(this.transmissionMap=e[t.transmissionMap]||null),t.thicknessMap!==void 0&&(this.thicknessMap=e[t.thicknessMap]||null),t.anisotropyMap!==void 0&&(this.anisotropyMap=e[t.anisotropyMap]||null),t.sheenColorMap!==void 0&&(this.sheenColorMap=e[t.sheenColorMap]||null),t.sheenRoughnessMap!==void 0&&(this.sheenRoughnessMap=e[t.sheenRoughnessMap]||null),this}clone(){return new this.constructor().copy(this)}copy(t){this.name=t.name,this.blending=t.blending,this.side=t.side,this.vertexColors=t.vertexColors,this.opacity=t.opacity,this.transparent=t.transparent,this.blendSrc=t.blendSrc,this.blendDst=t.blendDst,this.blendEquation=t.blendEquation,this.blendSrcAlpha=t.blendSrcAlpha,this.blendDstAlpha=t.blendDstAlpha,this.blendEquationAlpha=t.blendEquationAlpha,this.blendColor.copy(t.blendColor),this.blendAlpha=t.blendAlpha,this.depthFunc=t.depthFunc,this.depthTest=t.depthTest,this.depthWrite=t.depthWrite,this.stencilWriteMask=t.stencilWriteMask,this.stencilFunc=t.stencilFunc,this.stencilRef=t.stencilRef,this.stencilFuncMask=t.stencilFuncMask,this.stencilFail=t.stencilFail,this.stencilZFail=t.stencilZFail,this.stencilZPass=t.stencilZPass,this.stencilWrite=t.stencilWrite;let e=t.clippingPlanes,n=null;if(e!==null){let s=e.length;n=new Array(s);for(let r=0;r!==s;++r)n[r]=e[r].clone()}return this.clippingPlanes=n,this.clipIntersection=t.clipIntersection,this.clipShadows=t.clipShadows,this.shadowSide=t.shadowSide,this.colorWrite=t.colorWrite,this.precision=t.precision,this.polygonOffset=t.polygonOffset,this.polygonOffsetFactor=t.polygonOffsetFactor,this.polygonOffsetUnits=t.polygonOffsetUnits,this.dithering=t.dithering,this.alphaTest=t.alphaTest,this.alphaHash=t.alphaHash,this.alphaToCoverage=t.alphaToCoverage,this.premultipliedAlpha=t.premultipliedAlpha,this.forceSinglePass=t.forceSinglePass,this.allowOverride=t.allowOverride,this.visible=t.visible,this.toneMapped=t.toneMapped,this.userData=JSON.parse(JSON.stringify(t.userData)),this}dispose(){this.dispatchEvent({type:"dispose"})}set needsUpdate(t){t===!0&&this.version++}};var $i=new N,xh=new N,Ka=new N,Ja=new N,gn=class{constructor(t=new N,e=new N(0,0,-1)){this.origin=t,this.direction=e}set(t,e){return this.origin.copy(t),this.direction.copy(e),this}copy(t){return this.origin.copy(t.origin),this.direction.copy(t.direction),this}at(t,e){return e.copy(this.origin).addScaledVector(this.direction,t)}lookAt(t){return this.direction.copy(t).sub(this.origin).normalize(),this}recast(t){return this.origin.copy(this.at(t,$i)),this}closestPointToPoint(t,e){e.subVectors(t,this.origin);let n=e.dot(this.direction);return n<0?e.copy(this.origin):e.copy(this.origin).addScaledVector(this.direction,n)}distanceToPoint(t){return Math.sqrt(this.distanceSqToPoint(t))}distanceSqToPoint(t){let e=$i.subVectors(t,this.origin).dot(this.direction);return e<0?this.origin.distanceToSquared(t):($i.copy(this.origin).addScaledVector(this.direction,e),$i.distanceToSquared(t))}distanceSqToSegment(t,e,n,s){xh.copy(t).add(e).multiplyScalar(.5),Ka.copy(e).sub(t).normalize(),Ja.copy(this.origin).sub(xh);let r=t.distanceTo(e)*.5,a=-this.direction.dot(Ka),o=Ja.dot(this.direction),l=-Ja.dot(Ka),c=Ja.lengthSq(),h=Math.abs(1-a*a),d,u,m,g;if(h>0)if(d=a*l-o,u=a*o-l,g=r*h,d>=0)if(u>=-g)if(u<=g){let _=1/h;d*=_,u*=_,m=d*(d+a*u+2*o)+u*(a*d+u+2*l)+c}else u=r,d=Math.max(0,-(a*u+o)),m=-d*d+u*(u+2*l)+c;else u=-r,d=Math.max(0,-(a*u+o)),m=-d*d+u*(u+2*l)+c;else u<=-g?(d=Math.max(0,-(-a*r+o)),u=d>0?-r:Math.min(Math.max(-r,-l),r),m=-d*d+u*(u+2*l)+c):u<=g?(d=0,u=Math.min(Math.max(-r,-l),r),m=u*(u+2*l)+c):(d=Math.max(0,-(a*r+o)),u=d>0?r:Math.min(Math.max(-r,-l),r),m=-d*d+u*(u+2*l)+c);else u=a>0?-r:r,d=Math.max(0,-(a*u+o)),m=-d*d+u*(u+2*l)+c;return n&&n.copy(this.origin).addScaledVector(this.direction,d),s&&s.copy(xh).addScaledVector(Ka,u),m}intersectSphere(t,e){if(t.radius<0)return null;$i.subVectors(t.center,this.origin);let n=$i.dot(this.direction),s=$i.dot($i)-n*n,r=t.radius*t.radius;if(s>r)return null;let a=Math.sqrt(r-s),o=n-a,l=n+a;return l<0?null:o<0?this.at(l,e):this.at(o,e)}intersectsSphere(t){return t.radius<0?!1:this.distanceSqToPoint(t.center)<=t.radius*t.radius}distanceToPlane(t){let e=t.normal.dot(this.direction);if(e===0)return t.distanceToPoint(this.origin)===0?0:null;let n=-(this.origin.dot(t.normal)+t.constant)/e;return n>=0?n:null}intersectPlane(t,e){let n=this.distanceToPlane(t);return n===null?null:this.at(n,e)}intersectsPlane(t){let e=t.distanceToPoint(this.origin);return e===0||t.normal.dot(this.direction)*e<0}intersectBox(t,e){let n,s,r,a,o,l,c=1/this.direction.x,h=1/this.direction.y,d=1/this.direction.z,u=this.origin;return c>=0?(n=(t.min.x-u.x)*c,s=(t.max.x-u.x)*c):(n=(t.max.x-u.x)*c,s=(t.min.x-u.x)*c),h>=0?(r=(t.min.y-u.y)*h,a=(t.max.y-u.y)*h):(r=(t.max.y-u.y)*h,a=(t.min.y-u.y)*h),n>a||r>s||((r>n||isNaN(n))&&(n=r),(a<s||isNaN(s))&&(s=a),d>=0?(o=(t.min.z-u.z)*d,l=(t.max.z-u.z)*d):(o=(t.max.z-u.z)*d,l=(t.min.z-u.z)*d),n>l||o>s)||((o>n||n!==n)&&(n=o),(l<s||s!==s)&&(s=l),s<0)?null:this.at(n>=0?n:s,e)}intersectsBox(t){return this.intersectBox(t,$i)!==null}intersectTriangle(t,e,n,s,r){let a=this.origin,o=this.direction,l=o.x,c=o.y,h=o.z,d=t.x-a.x,u=t.y-a.y,m=t.z-a.z,g=e.x-a.x,_=e.y-a.y,f=e.z-a.z,p=n.x-a.x,S=n.y-a.y,T=n.z-a.z,w=Math.abs(l),R=Math.abs(c),E=Math.abs(h),x,b,k,I,D,z,q,P,W,K,H,et;if(w>=R&&w>=E?(k=l,z=d,W=g,et=p,l>=0?(x=c,b=h,I=u,D=m,q=_,P=f,K=S,H=T):(x=h,b=c,I=m,D=u,q=f,P=_,K=T,H=S)):R>=E?(k=c,z=u,W=_,et=S,c>=0?(x=h,b=l,I=m,D=d,q=f,P=g,K=T,H=p):(x=l,b=h,I=d,D=m,q=g,P=f,K=p,H=T)):(k=h,z=m,W=f,et=T,h>=0?(x=l,b=c,I=d,D=u,q=g,P=_,K=p,H=S):(x=c,b=l,I=u,D=d,q=_,P=g,K=S,H=p)),k===0)return null;let G=x/k,j=b/k,Q=1/k,St=I-G*z,Lt=D-j*z,Y=q-G*W,pt=P-j*W,xt=K-G*et,Tt=H-j*et,mt=xt*pt-Tt*Y,Ut=St*Tt-Lt*xt,ge=Y*Lt-pt*St;if(s){if(mt<0||Ut<0||ge<0)return null}else if((mt<0||Ut<0||ge<0)&&(mt>0||Ut>0||ge>0))return null;let Rt=mt+Ut+ge;if(Rt===0)return null;let Jt=Q*(mt*z+Ut*W+ge*et);return(Rt>0?Jt<0:Jt>0)?null:this.at(Jt/Rt,r)}applyMatrix4(t){return this.origin.applyMatrix4(t),this.direction.transformDirection(t),this}equals(t){return t.origin.equals(this.origin)&&t.direction.equals(this.direction)}clone(){return new this.constructor().copy(this)}},Co=class extends Ki{constructor(t){super(),this.isMeshBasicMaterial=!0,this.type="MeshBasicMaterial",this.color=new Ht(16777215),this.map=null,this.lightMap=null,this.lightMapIntensity=1,this.aoMap=null,this.aoMapIntensity=1,this.specularMap=null,this.alphaMap=null,this.envMap=null,this.envMapRotation=new fn,this.combine=Nh,this.reflectivity=1,this.refractionRatio=.98,this.wireframe=!1,this.wireframeLinewidth=1,this.wireframeLinecap="round",this.wireframeLinejoin="round",this.fog=!0,this.setValues(t)}copy(t){return super.copy(t),this.color.copy(t.color),this.map=t.map,this.lightMap=t.lightMap,this.lightMapIntensity=t.lightMapIntensity,this.aoMap=t.aoMap,this.aoMapIntensity=t.aoMapIntensity,this.specularMap=t.specularMap,this.alphaMap=t.alphaMap,this.envMap=t.envMap,this.envMapRotation.copy(t.envMapRotation),this.combine=t.combine,this.reflectivity=t.reflectivity,this.refractionRatio=t.refractionRatio,this.wireframe=t.wireframe,this.wireframeLinewidth=t.wireframeLinewidth,this.wireframeLinecap=t.wireframeLinecap,this.wireframeLinejoin=t.wireframeLinejoin,this.fog=t.fog,this}},dp=new se,$n=new gn,ja=new mn,fp=new N,Qa=new N,to=new N,eo=new N,yh=new N,io=new N,pp=new N,no=new N,Ii=class extends $e{constructor(t=new Fe,e=new Co){super(),this.isMesh=!0,this.type="Mesh",this.geometry=t,this.material=e,this.morphTargetDictionary=void 0,this.morphTargetInfluences=void 0,this.count=1,this.updateMorphTargets()}copy(t,e){return super.copy(t,e),t.morphTargetInfluences!==void 0?this.morphTargetInfluences=t.morphTargetInfluences.slice():this.morphTargetInfluences=void 0,t.morphTargetDictionary!==void 0?this.morphTargetDictionary=Object.assign({},t.morphTargetDictionary):this.morphTargetDictionary=void 0,this.material=Array.isArray(t.material)?t.material.slice():t.material,this.geometry=t.geometry,this}updateMorphTargets(){let e=this.geometry.morphAttributes,n=Object.keys(e);if(n.length>0){let s=e[n[0]];if(s!==void 0){this.morphTargetInfluences=[],this.morphTargetDictionary={};for(let r=0,a=s.length;r<a;r++){let o=s[r].name||String(r);this.morphTargetInfluences.push(0),this.morphTargetDictionary[o]=r}}}}getVertexPosition(t,e){let n=this.geometry,s=n.attributes.position,r=n.morphAttributes.position,a=n.morphTargetsRelative;e.fromBufferAttribute(s,t);let o=this.morphTargetInfluences;if(r&&o){io.set(0,0,0);for(let l=0,c=r.length;l<c;l++){let h=o[l],d=r[l];h!==0&&(yh.fromBufferAttribute(d,t),a?io.addScaledVector(yh,h):io.addScaledVector(yh.sub(e),h))}e.add(io)}return e}intersectsFrustum(t){return t.intersectsObject(this)}raycast(t,e){let n=this.geometry,s=this.material,r=this.matrixWorld;s!==void 0&&(n.boundingSphere===null&&n.computeBoundingSphere(),ja.copy(n.boundingSphere),ja.applyMatrix4(r),$n.copy(t.ray).recast(t.near),!(ja.containsPoint($n.origin)===!1&&($n.intersectSphere(ja,fp)===null||$n.origin.distanceToSquared(fp)>(t.far-t.near)**2))&&(dp.copy(r).invert(),$n.copy(t.ray).applyMatrix4(dp),!(n.boundingBox!==null&&$n.intersectsBox(n.boundingBox)===!1)&&this._computeIntersections(t,e,$n)))}_computeIntersections(t,e,n){let s,r=this.geometry,a=this.material,o=r.index,l=r.attributes.position,c=r.attributes.uv,h=r.attributes.uv1,d=r.attributes.normal,u=r.groups,m=r.drawRange;if(o!==null)if(Array.isArray(a))for(let g=0,_=u.length;g<_;g++){let f=u[g],p=a[f.materialIndex],S=Math.max(f.start,m.start),T=Math.min(o.count,Math.min(f.start+f.count,m.start+m.count));for(let w=S,R=T;w<R;w+=3){let E=o.getX(w),x=o.getX(w+1),b=o.getX(w+2);s=so(this,p,t,n,c,h,d,E,x,b),s&&(s.faceIndex=Math.floor(w/3),s.face.materialIndex=f.materialIndex,e.push(s))}}else{let g=Math.max(0,m.start),_=Math.min(o.count,m.start+m.count);for(let f=g,p=_;f<p;f+=3){let S=o.getX(f),T=o.getX(f+1),w=o.getX(f+2);s=so(this,a,t,n,c,h,d,S,T,w),s&&(s.faceIndex=Math.floor(f/3),e.push(s))}}else if(l!==void 0)if(Array.isArray(a))for(let g=0,_=u.length;g<_;g++){let f=u[g],p=a[f.materialIndex],S=Math.max(f.start,m.start),T=Math.min(l.count,Math.min(f.start+f.count,m.start+m.count));for(let w=S,R=T;w<R;w+=3){let E=w,x=w+1,b=w+2;s=so(this,p,t,n,c,h,d,E,x,b),s&&(s.faceIndex=Math.floor(w/3),s.face.materialIndex=f.materialIndex,e.push(s))}}else{let g=Math.max(0,m.start),_=Math.min(l.count,m.start+m.count);for(let f=g,p=_;f<p;f+=3){let S=f,T=f+1,w=f+2;s=so(this,a,t,n,c,h,d,S,T,w),s&&(s.faceIndex=Math.floor(f/3),e.push(s))}}}};function iy(i,t,e,n,s,r,a,o){let l;if(t.side===Ge?l=n.intersectTriangle(a,r,s,!0,o):l=n.intersectTriangle(s,r,a,t.side===bn,o),l===null)return null;no.copy(o),no.applyMatrix4(i.matrixWorld);let c=e.ray.origin.distanceTo(no);return c<e.near||c>e.far?null:{distance:c,point:no.clone(),object:i}}function so(i,t,e,n,s,r,a,o,l,c){i.getVertexPosition(o,Qa),i.getVertexPosition(l,to),i.getVertexPosition(c,eo);let h=iy(i,t,e,n,Qa,to,eo,pp);if(h){let d=new N;dn.getBarycoord(pp,Qa,to,eo,d),s&&(h.uv=dn.getInterpolatedAttribute(s,o,l,c,d,new Ot)),r&&(h.uv1=dn.getInterpolatedAttribute(r,o,l,c,d,new Ot)),a&&(h.normal=dn.getInterpolatedAttribute(a,o,l,c,d,new N),h.normal.dot(n.direction)>0&&h.normal.multiplyScalar(-1));let u={a:o,b:l,c,normal:new N,materialIndex:0};dn.getNormal(Qa,to,eo,u.normal),h.face=u,h.barycoord=d}return h}var Po=class extends qe{constructor(t=null,e=1,n=1,s,r,a,o,l,c=Pe,h=Pe,d,u){super(null,a,o,l,c,h,s,r,d,u),this.isDataTexture=!0,this.image={data:t,width:e,height:n},this.generateMipmaps=!1,this.flipY=!1,this.unpackAlignment=1}};var Yn=new mn,ny=new Ot(.5,.5),ro=new N,Zn=class{constructor(t=new je,e=new je,n=new je,s=new je,r=new je,a=new je){this.planes=[t,e,n,s,r,a]}set(t,e,n,s,r,a){let o=this.planes;return o[0].copy(t),o[1].copy(e),o[2].copy(n),o[3].copy(s),o[4].copy(r),o[5].copy(a),this}copy(t){let e=this.planes;for(let n=0;n<6;n++)e[n].copy(t.planes[n]);return this}setFromProjectionMatrix(t,e=ci,n=!1){let s=this.planes,r=t.elements,a=r[0],o=r[1],l=r[2],c=r[3],h=r[4],d=r[5],u=r[6],m=r[7],g=r[8],_=r[9],f=r[10],p=r[11],S=r[12],T=r[13],w=r[14],R=r[15];if(s[0].setComponents(c-a,m-h,p-g,R-S).normalize(),s[1].setComponents(c+a,m+h,p+g,R+S).normalize(),s[2].setComponents(c+o,m+d,p+_,R+T).normalize(),s[3].setComponents(c-o,m-d,p-_,R-T).normalize(),n)s[4].setComponents(l,u,f,w).normalize(),s[5].setComponents(c-l,m-u,p-f,R-w).normalize();else if(s[4].setComponents(c-l,m-u,p-f,R-w).normalize(),e===ci)s[5].setComponents(c+l,m+u,p+f,R+w).normalize();else if(e===Tr)s[5].setComponents(l,u,f,w).normalize();else throw new Error("THREE.Frustum.setFromProjectionMatrix(): Invalid coordinate system: "+e);return this}intersectsObject(t){if(t.boundingSphere!==void 0)t.boundingSphere===null&&t.computeBoundingSphere(),Yn.copy(t.boundingSphere).applyMatrix4(t.matrixWorld);else{let e=t.geometry;e.boundingSphere===null&&e.computeBoundingSphere(),Yn.copy(e.boundingSphere).applyMatrix4(t.matrixWorld)}return this.intersectsSphere(Yn)}intersectsSprite(t){Yn.center.set(0,0,0);let e=ny.distanceTo(t.center);return Yn.radius=.7071067811865476+e,Yn.applyMatrix4(t.matrixWorld),this.intersectsSphere(Yn)}intersectsSphere(t){let e=this.planes,n=t.center,s=-t.radius;for(let r=0;r<6;r++)if(e[r].distanceToPoint(n)<s)return!1;return!0}intersectsBox(t){let e=this.planes;for(let n=0;n<6;n++){let s=e[n];if(ro.x=s.normal.x>0?t.max.x:t.min.x,ro.y=s.normal.y>0?t.max.y:t.min.y,ro.z=s.normal.z>0?t.max.z:t.min.z,s.distanceToPoint(ro)<0)return!1}return!0}containsPoint(t){let e=this.planes;for(let n=0;n<6;n++)if(e[n].distanceToPoint(t)<0)return!1;return!0}clone(){return new this.constructor().copy(this)}},mp=new se,Io=class i{constructor(){this.coordinateSystem=ci,this._frustums=[],this._count=0}setFromArrayCamera(t){let e=t.cameras,n=this._frustums;for(let s=0;s<e.length;s++){let r=e[s];mp.multiplyMatrices(r.projectionMatrix,r.matrixWorldInverse),n[s]===void 0&&(n[s]=new Zn),n[s].setFromProjectionMatrix(mp,r.coordinateSystem,r.reversedDepth)}return this._count=e.length,this}getFrustum(t){return this._frustums[t]}intersectsObject(t){let e=this._frustums;for(let n=0;n<this._count;n++)if(e[n].intersectsObject(t))return!0;return!1}intersectsSprite(t){let e=this._frustums;for(let n=0;n<this._count;n++)if(e[n].intersectsSprite(t))return!0;return!1}intersectsSphere(t){let e=this._frustums;for(let n=0;n<this._count;n++)if(e[n].intersectsSphere(t))return!0;return!1}intersectsBox(t){let e=this._frustums;for(let n=0;n<this._count;n++)if(e[n].intersectsBox(t))return!0;return!1}containsPoint(t){let e=this._frustums;for(let n=0;n<this._count;n++)if(e[n].containsPoint(t))return!0;return!1}copy(t){this.coordinateSystem=t.coordinateSystem;let e=this._frustums,n=t._frustums;for(let s=0;s<t._count;s++)e[s]===void 0&&(e[s]=new Zn),e[s].copy(n[s]);return this._count=t._count,this}clone(){return new i().copy(this)}};var _n=class extends Ki{constructor(t){super(),this.isLineBasicMaterial=!0,this.type="LineBasicMaterial",this.color=new Ht(16777215),this.map=null,this.linewidth=1,this.linecap="round",this.linejoin="round",this.fog=!0,this.setValues(t)}copy(t){return super.copy(t),this.color.copy(t.color),this.map=t.map,this.linewidth=t.linewidth,this.linecap=t.linecap,this.linejoin=t.linejoin,this.fog=t.fog,this}},Lo=new N,Do=new N,gp=new se,yr=new gn,ao=new mn,vh=new N,_p=new N,Ds=class extends $e{constructor(t=new Fe,e=new _n){super(),this.isLine=!0,this.type="Line",this.geometry=t,this.material=e,this.morphTargetDictionary=void 0,this.morphTargetInfluences=void 0,this.updateMorphTargets()}copy(t,e){return super.copy(t,e),t.morphTargetInfluences!==void 0?this.morphTargetInfluences=t.morphTargetInfluences.slice():this.morphTargetInfluences=void 0,t.morphTargetDictionary!==void 0?this.morphTargetDictionary=Object.assign({},t.morphTargetDictionary):this.morphTargetDictionary=void 0,this.material=Array.isArray(t.material)?t.material.slice():t.material,this.geometry=t.geometry,this}computeLineDistances(){let t=this.geometry;if(t.index===null){let e=t.attributes.position,n=[0];for(let s=1,r=e.count;s<r;s++)Lo.fromBufferAttribute(e,s-1),Do.fromBufferAttribute(e,s),n[s]=n[s-1],n[s]+=Lo.distanceTo(Do);t.setAttribute("lineDistance",new me(n,1))}else Et("Line.computeLineDistances(): Computation only possible with non-indexed BufferGeometry.");return this}intersectsFrustum(t){return t.intersectsObject(this)}raycast(t,e){let n=this.geometry,s=this.matrixWorld,r=t.params.Line.threshold,a=n.drawRange;if(n.boundingSphere===null&&n.computeBoundingSphere(),ao.copy(n.boundingSphere),ao.applyMatrix4(s),ao.radius+=r,t.ray.intersectsSphere(ao)===!1)return;gp.copy(s).invert(),yr.copy(t.ray).applyMatrix4(gp);let o=r/((this.scale.x+this.scale.y+this.scale.z)/3),l=o*o,c=this.isLineSegments?2:1,h=n.index,u=n.attributes.position;if(h!==null){let m=Math.max(0,a.start),g=Math.min(h.count,a.start+a.count);for(let _=m,f=g-1;_<f;_+=c){let p=h.getX(_),S=h.getX(_+1),T=oo(this,t,yr,l,p,S,_);T&&e.push(T)}if(this.isLineLoop){let _=h.getX(g-1),f=h.getX(m),p=oo(this,t,yr,l,_,f,g-1);p&&e.push(p)}}else{let m=Math.max(0,a.start),g=Math.min(u.count,a.start+a.count);for(let _=m,f=g-1;_<f;_+=c){let p=oo(this,t,yr,l,_,_+1,_);p&&e.push(p)}if(this.isLineLoop){let _=oo(this,t,yr,l,g-1,m,g-1);_&&e.push(_)}}}updateMorphTargets(){let e=this.geometry.morphAttributes,n=Object.keys(e);if(n.length>0){let s=e[n[0]];if(s!==void 0){this.morphTargetInfluences=[],this.morphTargetDictionary={};for(let r=0,a=s.length;r<a;r++){let o=s[r].name||String(r);this.morphTargetInfluences.push(0),this.morphTargetDictionary[o]=r}}}}};function oo(i,t,e,n,s,r,a){let o=i.geometry.attributes.position;if(Lo.fromBufferAttribute(o,s),Do.fromBufferAttribute(o,r),e.distanceSqToSegment(Lo,Do,vh,_p)>n)return;vh.applyMatrix4(i.matrixWorld);let c=t.ray.origin.distanceTo(vh);if(!(c<t.near||c>t.far))return{distance:c,point:_p.clone().applyMatrix4(i.matrixWorld),index:a,face:null,faceIndex:null,barycoord:null,object:i}}var xp=new N,yp=new N,Ns=class extends Ds{constructor(t,e){super(t,e),this.isLineSegments=!0,this.type="LineSegments"}computeLineDistances(){let t=this.geometry;if(t.index===null){let e=t.attributes.position,n=[];for(let s=0,r=e.count;s<r;s+=2)xp.fromBufferAttribute(e,s),yp.fromBufferAttribute(e,s+1),n[s]=s===0?0:n[s-1],n[s+1]=n[s]+xp.distanceTo(yp);t.setAttribute("lineDistance",new me(n,1))}else Et("LineSegments.computeLineDistances(): Computation only possible with non-indexed BufferGeometry.");return this}};var Kn=class extends Ki{constructor(t){super(),this.isPointsMaterial=!0,this.type="PointsMaterial",this.color=new Ht(16777215),this.map=null,this.alphaMap=null,this.size=1,this.sizeAttenuation=!0,this.fog=!0,this.setValues(t)}copy(t){return super.copy(t),this.color.copy(t.color),this.map=t.map,this.alphaMap=t.alphaMap,this.size=t.size,this.sizeAttenuation=t.sizeAttenuation,this.fog=t.fog,this}},vp=new se,Eh=new gn,lo=new mn,co=new N,Os=class extends $e{constructor(t=new Fe,e=new Kn){super(),this.isPoints=!0,this.type="Points",this.geometry=t,this.material=e,this.morphTargetDictionary=void 0,this.morphTargetInfluences=void 0,this.updateMorphTargets()}copy(t,e){return super.copy(t,e),t.morphTargetInfluences!==void 0?this.morphTargetInfluences=t.morphTargetInfluences.slice():this.morphTargetInfluences=void 0,t.morphTargetDictionary!==void 0?this.morphTargetDictionary=Object.assign({},t.morphTargetDictionary):this.morphTargetDictionary=void 0,this.material=Array.isArray(t.material)?t.material.slice():t.material,this.geometry=t.geometry,this}intersectsFrustum(t){return t.intersectsObject(this)}raycast(t,e){let n=this.geometry,s=this.matrixWorld,r=t.params.Points.threshold,a=n.drawRange;if(n.boundingSphere===null&&n.computeBoundingSphere(),lo.copy(n.boundingSphere),lo.applyMatrix4(s),lo.radius+=r,t.ray.intersectsSphere(lo)===!1)return;vp.copy(s).invert(),Eh.copy(t.ray).applyMatrix4(vp);let o=r/((this.scale.x+this.scale.y+this.scale.z)/3),l=o*o,c=n.index,d=n.attributes.position;if(c!==null){let u=Math.max(0,a.start),m=Math.min(c.count,a.start+a.count);for(let g=u,_=m;g<_;g++){let f=c.getX(g);co.fromBufferAttribute(d,f),Sp(co,f,l,s,t,e,this)}}else{let u=Math.max(0,a.start),m=Math.min(d.count,a.start+a.count);for(let g=u,_=m;g<_;g++)co.fromBufferAttribute(d,g),Sp(co,g,l,s,t,e,this)}}updateMorphTargets(){let e=this.geometry.morphAttributes,n=Object.keys(e);if(n.length>0){let s=e[n[0]];if(s!==void 0){this.morphTargetInfluences=[],this.morphTargetDictionary={};for(let r=0,a=s.length;r<a;r++){let o=s[r].name||String(r);this.morphTargetInfluences.push(0),this.morphTargetDictionary[o]=r}}}}};function Sp(i,t,e,n,s,r,a){let o=Eh.distanceSqToPoint(i);if(o<e){let l=new N;Eh.closestPointToPoint(i,l),l.applyMatrix4(n);let c=s.ray.origin.distanceTo(l);if(c<s.near||c>s.far)return;r.push({distance:c,distanceToRay:Math.sqrt(o),point:l,index:t,face:null,faceIndex:null,barycoord:null,object:a})}}var Dr=class extends qe{constructor(t=[],e=Qn,n,s,r,a,o,l,c,h){super(t,e,n,s,r,a,o,l,c,h),this.isCubeTexture=!0,this.flipY=!1}get images(){return this.image}set images(t){this.image=t}};var Ji=class extends qe{constructor(t,e,n=_i,s,r,a,o=Pe,l=Pe,c,h=Zi,d=1){if(h!==Zi&&h!==Qi)throw new Error("THREE.DepthTexture: format must be either THREE.DepthFormat or THREE.DepthStencilFormat");let u={width:t,height:e,depth:d};super(u,s,r,a,o,l,h,n,c),this.isDepthTexture=!0,this.flipY=!1,this.generateMipmaps=!1,this.compareFunction=null}copy(t){return super.copy(t),this.source=new Is(Object.assign({},t.image)),this.compareFunction=t.compareFunction,this}toJSON(t){let e=super.toJSON(t);return e.compareFunction=this.compareFunction,e}},Nr=class extends Ji{constructor(t,e=_i,n=Qn,s,r,a=Pe,o=Pe,l,c=Zi){let h={width:t,height:t,depth:1},d=[h,h,h,h,h,h];super(t,t,e,n,s,r,a,o,l,c),this.image=d,this.isCubeDepthTexture=!0,this.isCubeTexture=!0}get images(){return this.image}set images(t){this.image=t}},Or=class extends qe{constructor(t=null){super(),this.sourceTexture=t,this.isExternalTexture=!0}copy(t){return super.copy(t),this.sourceTexture=t.sourceTexture,this}},Us=class i extends Fe{constructor(t=1,e=1,n=1,s=1,r=1,a=1){super(),this.type="BoxGeometry",this.parameters={width:t,height:e,depth:n,widthSegments:s,heightSegments:r,depthSegments:a};let o=this;s=Math.floor(s),r=Math.floor(r),a=Math.floor(a);let l=[],c=[],h=[],d=[],u=0,m=0;g("z","y","x",-1,-1,n,e,t,a,r,0),g("z","y","x",1,-1,n,e,-t,a,r,1),g("x","z","y",1,1,t,n,e,s,a,2),g("x","z","y",1,-1,t,n,-e,s,a,3),g("x","y","z",1,-1,t,e,n,s,r,4),g("x","y","z",-1,-1,t,e,-n,s,r,5),this.setIndex(l),this.setAttribute("position",new me(c,3)),this.setAttribute("normal",new me(h,3)),this.setAttribute("uv",new me(d,2));function g(_,f,p,S,T,w,R,E,x,b,k){let I=w/x,D=R/b,z=w/2,q=R/2,P=E/2,W=x+1,K=b+1,H=0,et=0,G=new N;for(let j=0;j<K;j++){let Q=j*D-q;for(let St=0;St<W;St++){let Lt=St*I-z;G[_]=Lt*S,G[f]=Q*T,G[p]=P,c.push(G.x,G.y,G.z),G[_]=0,G[f]=0,G[p]=E>0?1:-1,h.push(G.x,G.y,G.z),d.push(St/x),d.push(1-j/b),H+=1}}for(let j=0;j<b;j++)for(let Q=0;Q<x;Q++){let St=u+Q+W*j,Lt=u+Q+W*(j+1),Y=u+(Q+1)+W*(j+1),pt=u+(Q+1)+W*j;l.push(St,Lt,pt),l.push(Lt,Y,pt),et+=6}o.addGroup(m,et,k),m+=et,u+=H}}copy(t){return super.copy(t),this.parameters=Object.assign({},t.parameters),this}static fromJSON(t){return new i(t.width,t.height,t.depth,t.widthSegments,t.heightSegments,t.depthSegments)}};var Ur=class i extends Fe{constructor(t=1,e=1,n=1,s=1){super(),this.type="PlaneGeometry",this.parameters={width:t,height:e,widthSegments:n,heightSegments:s};let r=t/2,a=e/2,o=Math.floor(n),l=Math.floor(s),c=o+1,h=l+1,d=t/o,u=e/l,m=[],g=[],_=[],f=[];for(let p=0;p<h;p++){let S=p*u-a;for(let T=0;T<c;T++){let w=T*d-r;g.push(w,-S,0),_.push(0,0,1),f.push(T/o),f.push(1-p/l)}}for(let p=0;p<l;p++)for(let S=0;S<o;S++){let T=S+c*p,w=S+c*(p+1),R=S+1+c*(p+1),E=S+1+c*p;m.push(T,w,E),m.push(w,R,E)}this.setIndex(m),this.setAttribute("position",new me(g,3)),this.setAttribute("normal",new me(_,3)),this.setAttribute("uv",new me(f,2))}copy(t){return super.copy(t),this.parameters=Object.assign({},t.parameters),this}static fromJSON(t){return new i(t.width,t.height,t.widthSegments,t.heightSegments)}};function es(i){let t={};for(let e in i){t[e]={};for(let n in i[e]){let s=i[e][n];if(Mp(s))s.isRenderTargetTexture?(Et("UniformsUtils: Textures of render targets cannot be cloned via cloneUniforms() or mergeUniforms()."),t[e][n]=null):t[e][n]=s.clone();else if(Array.isArray(s))if(Mp(s[0])){let r=[];for(let a=0,o=s.length;a<o;a++)r[a]=s[a].clone();t[e][n]=r}else t[e][n]=s.slice();else t[e][n]=s}}return t}function ke(i){let t={};for(let e=0;e<i.length;e++){let n=es(i[e]);for(let s in n)t[s]=n[s]}return t}function Mp(i){return i&&(i.isColor||i.isMatrix3||i.isMatrix4||i.isVector2||i.isVector3||i.isVector4||i.isTexture||i.isQuaternion)}function sy(i){let t=[];for(let e=0;e<i.length;e++)t.push(i[e].clone());return t}function au(i){let t=i.getRenderTarget();return t===null?i.outputColorSpace:t.isXRRenderTarget===!0?t.texture.colorSpace:Xt.workingColorSpace}var fm={clone:es,merge:ke},ry=`void main() {
	gl_Position = projectionMatrix * modelViewMatrix * vec4( position, 1.0 );
}`,ay=`void main() {
	gl_FragColor = vec4( 1.0, 0.0, 0.0, 1.0 );
}`,Li=class extends Ki{constructor(t){super(),this.isShaderMaterial=!0,this.type="ShaderMaterial",this.defines={},this.uniforms={},this.uniformsGroups=[],this.vertexShader=ry,this.fragmentShader=ay,this.linewidth=1,this.wireframe=!1,this.wireframeLinewidth=1,this.fog=!1,this.lights=!1,this.clipping=!1,this.forceSinglePass=!0,this.extensions={clipCullDistance:!1,multiDraw:!1},this.defaultAttributeValues={color:[1,1,1],uv:[0,0],uv1:[0,0]},this.index0AttributeName=void 0,this.uniformsNeedUpdate=!1,this.glslVersion=null,t!==void 0&&this.setValues(t)}copy(t){return super.copy(t),this.fragmentShader=t.fragmentShader,this.vertexShader=t.vertexShader,this.uniforms=es(t.uniforms),this.uniformsGroups=sy(t.uniformsGroups),this.defines=Object.assign({},t.defines),this.wireframe=t.wireframe,this.wireframeLinewidth=t.wireframeLinewidth,this.fog=t.fog,this.lights=t.lights,this.clipping=t.clipping,this.extensions=Object.assign({},t.extensions),this.glslVersion=t.glslVersion,this.defaultAttributeValues=Object.assign({},t.defaultAttributeValues),this.index0AttributeName=t.index0AttributeName,this.uniformsNeedUpdate=t.uniformsNeedUpdate,this}toJSON(t){let e=super.toJSON(t);e.glslVersion=this.glslVersion,e.uniforms={};for(let s in this.uniforms){let a=this.uniforms[s].value;a&&a.isTexture?e.uniforms[s]={type:"t",value:a.toJSON(t).uuid}:a&&a.isColor?e.uniforms[s]={type:"c",value:a.getHex()}:a&&a.isVector2?e.uniforms[s]={type:"v2",value:a.toArray()}:a&&a.isVector3?e.uniforms[s]={type:"v3",value:a.toArray()}:a&&a.isVector4?e.uniforms[s]={type:"v4",value:a.toArray()}:a&&a.isMatrix3?e.uniforms[s]={type:"m3",value:a.toArray()}:a&&a.isMatrix4?e.uniforms[s]={type:"m4",value:a.toArray()}:e.uniforms[s]={value:a}}Object.keys(this.defines).length>0&&(e.defines=this.defines),e.vertexShader=this.vertexShader,e.fragmentShader=this.fragmentShader,e.lights=this.lights,e.clipping=this.clipping;let n={};for(let s in this.extensions)this.extensions[s]===!0&&(n[s]=!0);return Object.keys(n).length>0&&(e.extensions=n),e}fromJSON(t,e){if(super.fromJSON(t,e),t.uniforms!==void 0)for(let n in t.uniforms){let s=t.uniforms[n];switch(this.uniforms[n]={},s.type){case"t":this.uniforms[n].value=e[s.value]||null;break;case"c":this.uniforms[n].value=new Ht().setHex(s.value);break;case"v2":this.uniforms[n].value=new Ot().fromArray(s.value);break;case"v3":this.uniforms[n].value=new N().fromArray(s.value);break;case"v4":this.uniforms[n].value=new ue().fromArray(s.value);break;case"m3":this.uniforms[n].value=new Pt().fromArray(s.value);break;case"m4":this.uniforms[n].value=new se().fromArray(s.value);break;default:this.uniforms[n].value=s.value}}if(t.defines!==void 0&&(this.defines=t.defines),t.vertexShader!==void 0&&(this.vertexShader=t.vertexShader),t.fragmentShader!==void 0&&(this.fragmentShader=t.fragmentShader),t.glslVersion!==void 0&&(this.glslVersion=t.glslVersion),t.extensions!==void 0)for(let n in t.extensions)this.extensions[n]=t.extensions[n];return t.lights!==void 0&&(this.lights=t.lights),t.clipping!==void 0&&(this.clipping=t.clipping),this}},No=class extends Li{constructor(t){super(t),this.isRawShaderMaterial=!0,this.type="RawShaderMaterial"}};var Oo=class extends Ki{constructor(t){super(),this.isMeshDepthMaterial=!0,this.type="MeshDepthMaterial",this.depthPacking=Jp,this.map=null,this.alphaMap=null,this.displacementMap=null,this.displacementScale=1,this.displacementBias=0,this.wireframe=!1,this.wireframeLinewidth=1,this.setValues(t)}copy(t){return super.copy(t),this.depthPacking=t.depthPacking,this.map=t.map,this.alphaMap=t.alphaMap,this.displacementMap=t.displacementMap,this.displacementScale=t.displacementScale,this.displacementBias=t.displacementBias,this.wireframe=t.wireframe,this.wireframeLinewidth=t.wireframeLinewidth,this}},Uo=class extends Ki{constructor(t){super(),this.isMeshDistanceMaterial=!0,this.type="MeshDistanceMaterial",this.map=null,this.alphaMap=null,this.displacementMap=null,this.displacementScale=1,this.displacementBias=0,this.setValues(t)}copy(t){return super.copy(t),this.map=t.map,this.alphaMap=t.alphaMap,this.displacementMap=t.displacementMap,this.displacementScale=t.displacementScale,this.displacementBias=t.displacementBias,this}};function ws(i,t){return!i||i.constructor===t?i:typeof t.BYTES_PER_ELEMENT=="number"?new t(i):Array.prototype.slice.call(i)}function ho(i){return i!==void 0&&i.inTangents!==void 0&&i.outTangents!==void 0}var xn=class{constructor(t,e,n,s){this.parameterPositions=t,this._cachedIndex=0,this.resultBuffer=s!==void 0?s:new e.constructor(n),this.sampleValues=e,this.valueSize=n,this.settings=null,this.DefaultSettings_={}}evaluate(t){let e=this.parameterPositions,n=this._cachedIndex,s=e[n],r=e[n-1];i:{t:{let a;e:{n:if(!(t<s)){for(let o=n+2;;){if(s===void 0){if(t<r)break n;return n=e.length,this._cachedIndex=n,this.copySampleValue_(n-1)}if(n===o)break;if(r=s,s=e[++n],t<s)break t}a=e.length;break e}if(!(t>=r)){let o=e[1];t<o&&(n=2,r=o);for(let l=n-2;;){if(r===void 0)return this._cachedIndex=0,this.copySampleValue_(0);if(n===l)break;if(s=r,r=e[--n-1],t>=r)break t}a=n,n=0;break e}break i}for(;n<a;){let o=n+a>>>1;t<e[o]?a=o:n=o+1}if(s=e[n],r=e[n-1],r===void 0)return this._cachedIndex=0,this.copySampleValue_(0);if(s===void 0)return n=e.length,this._cachedIndex=n,this.copySampleValue_(n-1)}this._cachedIndex=n,this.intervalChanged_(n,r,s)}return this.interpolate_(n,r,t,s)}getSettings_(){return this.settings||this.DefaultSettings_}copySampleValue_(t){let e=this.resultBuffer,n=this.sampleValues,s=this.valueSize,r=t*s;for(let a=0;a!==s;++a)e[a]=n[r+a];return e}interpolate_(){throw new Error("THREE.Interpolant: Call to abstract method.")}intervalChanged_(){}},Fo=class extends xn{constructor(t,e,n,s){super(t,e,n,s),this._weightPrev=-0,this._offsetPrev=-0,this._weightNext=-0,this._offsetNext=-0,this.DefaultSettings_={endingStart:Mh,endingEnd:Mh}}intervalChanged_(t,e,n){let s=this.parameterPositions,r=t-2,a=t+1,o=s[r],l=s[a];if(o===void 0)switch(this.getSettings_().endingStart){case bh:r=t,o=2*e-n;break;case wh:r=s.length-2,o=e+s[r]-s[r+1];break;default:r=t,o=n}if(l===void 0)switch(this.getSettings_().endingEnd){case bh:a=t,l=2*n-e;break;case wh:a=1,l=n+s[1]-s[0];break;default:a=t-1,l=e}let c=(n-e)*.5,h=this.valueSize;this._weightPrev=c/(e-o),this._weightNext=c/(l-n),this._offsetPrev=r*h,this._offsetNext=a*h}interpolate_(t,e,n,s){let r=this.resultBuffer,a=this.sampleValues,o=this.valueSize,l=t*o,c=l-o,h=this._offsetPrev,d=this._offsetNext,u=this._weightPrev,m=this._weightNext,g=(n-e)/(s-e),_=g*g,f=_*g,p=-u*f+2*u*_-u*g,S=(1+u)*f+(-1.5-2*u)*_+(-.5+u)*g+1,T=(-1-m)*f+(1.5+m)*_+.5*g,w=m*f-m*_;for(let R=0;R!==o;++R)r[R]=p*a[h+R]+S*a[c+R]+T*a[l+R]+w*a[d+R];return r}},ko=class extends xn{constructor(t,e,n,s){super(t,e,n,s)}interpolate_(t,e,n,s){let r=this.resultBuffer,a=this.sampleValues,o=this.valueSize,l=t*o,c=l-o,h=(n-e)/(s-e),d=1-h;for(let u=0;u!==o;++u)r[u]=a[c+u]*d+a[l+u]*h;return r}},Bo=class extends xn{constructor(t,e,n,s){super(t,e,n,s)}interpolate_(t){return this.copySampleValue_(t-1)}},zo=class extends xn{interpolate_(t,e,n,s){let r=this.resultBuffer,a=this.sampleValues,o=this.valueSize,l=t*o,c=l-o,h=this.inTangents,d=this.outTangents;if(!h||!d){let g=(n-e)/(s-e),_=1-g;for(let f=0;f!==o;++f)r[f]=a[c+f]*_+a[l+f]*g;return r}let u=o*2,m=t-1;for(let g=0;g!==o;++g){let _=a[c+g],f=a[l+g],p=m*u+g*2,S=d[p],T=d[p+1],w=t*u+g*2,R=h[w],E=h[w+1],x=ly(n,e,S,R,s);r[g]=pm(x,_,T,E,f)}return r}};function pm(i,t,e,n,s){let r=1-i;return r*r*r*t+3*r*r*i*e+3*r*i*i*n+i*i*i*s}function oy(i,t,e,n,s){let r=1-i;return 3*r*r*(e-t)+6*r*i*(n-e)+3*i*i*(s-n)}function ly(i,t,e,n,s){let r=(i-t)/(s-t);for(let a=0;a<8;a++){let o=pm(r,t,e,n,s)-i;if(Math.abs(o)<1e-10)break;let l=oy(r,t,e,n,s);if(Math.abs(l)<1e-10)break;r=Math.max(0,Math.min(1,r-o/l))}return r}var ei=class{constructor(t,e,n,s){if(t===void 0)throw new Error("THREE.KeyframeTrack: track name is undefined");if(e===void 0||e.length===0)throw new Error("THREE.KeyframeTrack: no keyframes in track named "+t);this.name=t,this.times=ws(e,this.TimeBufferType),this.values=ws(n,this.ValueBufferType),this.setInterpolation(s||this.DefaultInterpolation)}static toJSON(t){let e=t.constructor,n;if(e.toJSON!==this.toJSON)n=e.toJSON(t);else{n={name:t.name,times:ws(t.times,Array),values:ws(t.values,Array)};let s=t.getInterpolation();s!==t.DefaultInterpolation&&(n.interpolation=s),ho(t.settings)&&(n.settings={inTangents:ws(t.settings.inTangents,Array),outTangents:ws(t.settings.outTangents,Array)})}return n.type=t.ValueTypeName,n}InterpolantFactoryMethodDiscrete(t){return new Bo(this.times,this.values,this.getValueSize(),t)}InterpolantFactoryMethodLinear(t){return new ko(this.times,this.values,this.getValueSize(),t)}InterpolantFactoryMethodSmooth(t){return new Fo(this.times,this.values,this.getValueSize(),t)}InterpolantFactoryMethodBezier(t){let e=new zo(this.times,this.values,this.getValueSize(),t);return this.settings&&(e.inTangents=this.settings.inTangents,e.outTangents=this.settings.outTangents),e}setInterpolation(t){let e;switch(t){case br:e=this.InterpolantFactoryMethodDiscrete;break;case Eo:e=this.InterpolantFactoryMethodLinear;break;case po:e=this.InterpolantFactoryMethodSmooth;break;case Sh:e=this.InterpolantFactoryMethodBezier;break}if(e===void 0){let n="unsupported interpolation for "+this.ValueTypeName+" keyframe track named "+this.name;if(this.createInterpolant===void 0)if(t!==this.DefaultInterpolation)this.setInterpolation(this.DefaultInterpolation);else throw new Error(n);return Et("KeyframeTrack:",n),this}return this.createInterpolant=e,this}getInterpolation(){switch(this.createInterpolant){case this.InterpolantFactoryMethodDiscrete:return br;case this.InterpolantFactoryMethodLinear:return Eo;case this.InterpolantFactoryMethodSmooth:return po;case this.InterpolantFactoryMethodBezier:return Sh}}getValueSize(){return this.values.length/this.times.length}shift(t){if(t!==0){let e=this.times;for(let n=0,s=e.length;n!==s;++n)e[n]+=t;ho(this.settings)&&(bp(this.settings.inTangents,t),bp(this.settings.outTangents,t))}return this}scale(t){if(t!==1){let e=this.times;for(let n=0,s=e.length;n!==s;++n)e[n]*=t;ho(this.settings)&&(wp(this.settings.inTangents,t),wp(this.settings.outTangents,t))}return this}trim(t,e){let n=this.times,s=n.length,r=0,a=s-1;for(;r!==s&&n[r]<t;)++r;for(;a!==-1&&n[a]>e;)--a;if(++a,r!==0||a!==s){r>=a&&(a=Math.max(a,1),r=a-1);let o=this.getValueSize();this.times=n.slice(r,a),this.values=this.values.slice(r*o,a*o)}return this}validate(){let t=!0,e=this.getValueSize();e-Math.floor(e)!==0&&(Ct("KeyframeTrack: Invalid value size in track.",this),t=!1);let n=this.times,s=this.values,r=n.length;r===0&&(Ct("KeyframeTrack: Track is empty.",this),t=!1);let a=null;for(let o=0;o!==r;o++){let l=n[o];if(typeof l=="number"&&isNaN(l)){Ct("KeyframeTrack: Time is not a valid number.",this,o,l),t=!1;break}if(a!==null&&a>l){Ct("KeyframeTrack: Out of order keys.",this,o,l,a),t=!1;break}a=l}if(s!==void 0&&wx(s))for(let o=0,l=s.length;o!==l;++o){let c=s[o];if(isNaN(c)){Ct("KeyframeTrack: Value is not a valid number.",this,o,c),t=!1;break}}return t}optimize(){let t=this.times.slice(),e=this.values.slice(),n=this.getValueSize(),s=this.getInterpolation()===po,r=t.length-1,a=1;for(let o=1;o<r;++o){let l=!1,c=t[o],h=t[o+1];if(c!==h&&(o!==1||c!==t[0]))if(s)l=!0;else{let d=o*n,u=d-n,m=d+n;for(let g=0;g!==n;++g){let _=e[d+g];if(_!==e[u+g]||_!==e[m+g]){l=!0;break}}}if(l){if(o!==a){t[a]=t[o];let d=o*n,u=a*n;for(let m=0;m!==n;++m)e[u+m]=e[d+m]}++a}}if(r>0){t[a]=t[r];for(let o=r*n,l=a*n,c=0;c!==n;++c)e[l+c]=e[o+c];++a}return a!==t.length?(this.times=t.slice(0,a),this.values=e.slice(0,a*n)):(this.times=t,this.values=e),this}clone(){let t=this.times.slice(),e=this.values.slice(),n=this.constructor,s=new n(this.name,t,e);return s.createInterpolant=this.createInterpolant,ho(this.settings)&&(s.settings={inTangents:this.settings.inTangents.slice(),outTangents:this.settings.outTangents.slice()}),s}};function bp(i,t){for(let e=0,n=i.length;e!==n;e+=2)i[e]+=t}function wp(i,t){for(let e=0,n=i.length;e!==n;e+=2)i[e]*=t}ei.prototype.ValueTypeName="";ei.prototype.TimeBufferType=Float32Array;ei.prototype.ValueBufferType=Float32Array;ei.prototype.DefaultInterpolation=Eo;var yn=class extends ei{constructor(t,e,n){super(t,e,n)}};yn.prototype.ValueTypeName="bool";yn.prototype.ValueBufferType=Array;yn.prototype.DefaultInterpolation=br;yn.prototype.InterpolantFactoryMethodLinear=void 0;yn.prototype.InterpolantFactoryMethodSmooth=void 0;var Ho=class extends ei{constructor(t,e,n,s){super(t,e,n,s)}};Ho.prototype.ValueTypeName="color";var Vo=class extends ei{constructor(t,e,n,s){super(t,e,n,s)}};Vo.prototype.ValueTypeName="number";var Go=class extends xn{constructor(t,e,n,s){super(t,e,n,s)}interpolate_(t,e,n,s){let r=this.resultBuffer,a=this.sampleValues,o=this.valueSize,l=(n-e)/(s-e),c=t*o;for(let h=c+o;c!==h;c+=4)Qe.slerpFlat(r,0,a,c-o,a,c,l);return r}},Fr=class extends ei{constructor(t,e,n,s){super(t,e,n,s)}InterpolantFactoryMethodLinear(t){return new Go(this.times,this.values,this.getValueSize(),t)}};Fr.prototype.ValueTypeName="quaternion";Fr.prototype.InterpolantFactoryMethodSmooth=void 0;var vn=class extends ei{constructor(t,e,n){super(t,e,n)}};vn.prototype.ValueTypeName="string";vn.prototype.ValueBufferType=Array;vn.prototype.DefaultInterpolation=br;vn.prototype.InterpolantFactoryMethodLinear=void 0;vn.prototype.InterpolantFactoryMethodSmooth=void 0;var Wo=class extends ei{constructor(t,e,n,s){super(t,e,n,s)}};Wo.prototype.ValueTypeName="vector";var Xo=class{constructor(t,e,n){let s=this,r=!1,a=0,o=0,l,c=[];this.onStart=void 0,this.onLoad=t,this.onProgress=e,this.onError=n,this._abortController=null,this.itemStart=function(h){o++,r===!1&&s.onStart!==void 0&&s.onStart(h,a,o),r=!0},this.itemEnd=function(h){a++,s.onProgress!==void 0&&s.onProgress(h,a,o),a===o&&(r=!1,s.onLoad!==void 0&&s.onLoad())},this.itemError=function(h){s.onError!==void 0&&s.onError(h)},this.resolveURL=function(h){return h=h.normalize("NFC"),l?l(h):h},this.setURLModifier=function(h){return l=h,this},this.addHandler=function(h,d){return c.push(h,d),this},this.removeHandler=function(h){let d=c.indexOf(h);return d!==-1&&c.splice(d,2),this},this.getHandler=function(h){for(let d=0,u=c.length;d<u;d+=2){let m=c[d],g=c[d+1];if(m.global&&(m.lastIndex=0),m.test(h))return g}return null},this.abort=function(){return this.abortController.abort(),this._abortController=null,this}}get abortController(){return this._abortController||(this._abortController=new AbortController),this._abortController}},mm=new Xo,qo=class{constructor(t){this.manager=t!==void 0?t:mm,this.crossOrigin="anonymous",this.withCredentials=!1,this.path="",this.resourcePath="",this.requestHeader={},this.priority="auto",this.cache="default",typeof __THREE_DEVTOOLS__<"u"&&__THREE_DEVTOOLS__.dispatchEvent(new CustomEvent("observe",{detail:this}))}load(){}loadAsync(t,e){let n=this;return new Promise(function(s,r){n.load(t,s,e,r)})}parse(){}setCrossOrigin(t){return this.crossOrigin=t,this}setWithCredentials(t){return this.withCredentials=t,this}setPath(t){return this.path=t,this}setResourcePath(t){return this.resourcePath=t,this}setRequestHeader(t){return this.requestHeader=t,this}setPriority(t){return this.priority=t,this}setCache(t){return this.cache=t,this}abort(){return this}};qo.DEFAULT_MATERIAL_NAME="__DEFAULT";var uo=new N,fo=new Qe,Ai=new N,kr=class extends $e{constructor(){super(),this.isCamera=!0,this.type="Camera",this.matrixWorldInverse=new se,this.projectionMatrix=new se,this.projectionMatrixInverse=new se,this.coordinateSystem=ci,this._reversedDepth=!1}get reversedDepth(){return this._reversedDepth}copy(t,e){return super.copy(t,e),this.matrixWorldInverse.copy(t.matrixWorldInverse),this.projectionMatrix.copy(t.projectionMatrix),this.projectionMatrixInverse.copy(t.projectionMatrixInverse),this.coordinateSystem=t.coordinateSystem,this}getWorldDirection(t){return super.getWorldDirection(t).negate()}updateMatrixWorld(t){super.updateMatrixWorld(t),this.matrixWorld.decompose(uo,fo,Ai),Ai.x===1&&Ai.y===1&&Ai.z===1?this.matrixWorldInverse.copy(this.matrixWorld).invert():this.matrixWorldInverse.compose(uo,fo,Ai.set(1,1,1)).invert()}updateWorldMatrix(t,e,n=!1){super.updateWorldMatrix(t,e,n),this.matrixWorld.decompose(uo,fo,Ai),Ai.x===1&&Ai.y===1&&Ai.z===1?this.matrixWorldInverse.copy(this.matrixWorld).invert():this.matrixWorldInverse.compose(uo,fo,Ai.set(1,1,1)).invert()}clone(){return new this.constructor().copy(this)}},un=new N,Ep=new Ot,Tp=new Ot,He=class extends kr{constructor(t=50,e=1,n=.1,s=2e3){super(),this.isPerspectiveCamera=!0,this.type="PerspectiveCamera",this.fov=t,this.zoom=1,this.near=n,this.far=s,this.focus=10,this.aspect=e,this.view=null,this.filmGauge=35,this.filmOffset=0,this.updateProjectionMatrix()}copy(t,e){return super.copy(t,e),this.fov=t.fov,this.zoom=t.zoom,this.near=t.near,this.far=t.far,this.focus=t.focus,this.aspect=t.aspect,this.view=t.view===null?null:Object.assign({},t.view),this.filmGauge=t.filmGauge,this.filmOffset=t.filmOffset,this}setFocalLength(t){let e=.5*this.getFilmHeight()/t;this.fov=Ps*2*Math.atan(e),this.updateProjectionMatrix()}getFocalLength(){let t=Math.tan(Sr*.5*this.fov);return .5*this.getFilmHeight()/t}getEffectiveFOV(){return Ps*2*Math.atan(Math.tan(Sr*.5*this.fov)/this.zoom)}getFilmWidth(){return this.filmGauge*Math.min(this.aspect,1)}getFilmHeight(){return this.filmGauge/Math.max(this.aspect,1)}getViewBounds(t,e,n){un.set(-1,-1,.5).applyMatrix4(this.projectionMatrixInverse),e.set(un.x,un.y).multiplyScalar(-t/un.z),un.set(1,1,.5).applyMatrix4(this.projectionMatrixInverse),n.set(un.x,un.y).multiplyScalar(-t/un.z)}getViewSize(t,e){return this.getViewBounds(t,Ep,Tp),e.subVectors(Tp,Ep)}setViewOffset(t,e,n,s,r,a){this.aspect=t/e,this.view===null&&(this.view={enabled:!0,fullWidth:1,fullHeight:1,offsetX:0,offsetY:0,width:1,height:1}),this.view.enabled=!0,this.view.fullWidth=t,this.view.fullHeight=e,this.view.offsetX=n,this.view.offsetY=s,this.view.width=r,this.view.height=a,this.updateProjectionMatrix()}clearViewOffset(){this.view!==null&&(this.view.enabled=!1),this.updateProjectionMatrix()}updateProjectionMatrix(){let t=this.near,e=t*Math.tan(Sr*.5*this.fov)/this.zoom,n=2*e,s=this.aspect*n,r=-.5*s,a=this.view;if(this.view!==null&&this.view.enabled){let l=a.fullWidth,c=a.fullHeight;r+=a.offsetX*s/l,e-=a.offsetY*n/c,s*=a.width/l,n*=a.height/c}let o=this.filmOffset;o!==0&&(r+=t*o/this.getFilmWidth()),this.projectionMatrix.makePerspective(r,r+s,e,e-n,t,this.far,this.coordinateSystem,this.reversedDepth),this.projectionMatrixInverse.copy(this.projectionMatrix).invert()}toJSON(t){let e=super.toJSON(t);return e.object.fov=this.fov,e.object.zoom=this.zoom,e.object.near=this.near,e.object.far=this.far,e.object.focus=this.focus,e.object.aspect=this.aspect,this.view!==null&&(e.object.view=Object.assign({},this.view)),e.object.filmGauge=this.filmGauge,e.object.filmOffset=this.filmOffset,e}};var $o=class extends kr{constructor(t=-1,e=1,n=1,s=-1,r=.1,a=2e3){super(),this.isOrthographicCamera=!0,this.type="OrthographicCamera",this.zoom=1,this.view=null,this.left=t,this.right=e,this.top=n,this.bottom=s,this.near=r,this.far=a,this.updateProjectionMatrix()}copy(t,e){return super.copy(t,e),this.left=t.left,this.right=t.right,this.top=t.top,this.bottom=t.bottom,this.near=t.near,this.far=t.far,this.zoom=t.zoom,this.view=t.view===null?null:Object.assign({},t.view),this}setViewOffset(t,e,n,s,r,a){this.view===null&&(this.view={enabled:!0,fullWidth:1,fullHeight:1,offsetX:0,offsetY:0,width:1,height:1}),this.view.enabled=!0,this.view.fullWidth=t,this.view.fullHeight=e,this.view.offsetX=n,this.view.offsetY=s,this.view.width=r,this.view.height=a,this.updateProjectionMatrix()}clearViewOffset(){this.view!==null&&(this.view.enabled=!1),this.updateProjectionMatrix()}updateProjectionMatrix(){let t=(this.right-this.left)/(2*this.zoom),e=(this.top-this.bottom)/(2*this.zoom),n=(this.right+this.left)/2,s=(this.top+this.bottom)/2,r=n-t,a=n+t,o=s+e,l=s-e;if(this.view!==null&&this.view.enabled){let c=(this.right-this.left)/this.view.fullWidth/this.zoom,h=(this.top-this.bottom)/this.view.fullHeight/this.zoom;r+=c*this.view.offsetX,a=r+c*this.view.width,o-=h*this.view.offsetY,l=o-h*this.view.height}this.projectionMatrix.makeOrthographic(r,a,o,l,this.near,this.far,this.coordinateSystem,this.reversedDepth),this.projectionMatrixInverse.copy(this.projectionMatrix).invert()}toJSON(t){let e=super.toJSON(t);return e.object.zoom=this.zoom,e.object.left=this.left,e.object.right=this.right,e.object.top=this.top,e.object.bottom=this.bottom,e.object.near=this.near,e.object.far=this.far,this.view!==null&&(e.object.view=Object.assign({},this.view)),e}};var Es=-90,Ts=1,Fs=class extends $e{constructor(t,e,n){super(),this.type="CubeCamera",this.renderTarget=n,this.coordinateSystem=null,this.activeMipmapLevel=0;let s=new He(Es,Ts,t,e);s.layers=this.layers,this.add(s);let r=new He(Es,Ts,t,e);r.layers=this.layers,this.add(r);let a=new He(Es,Ts,t,e);a.layers=this.layers,this.add(a);let o=new He(Es,Ts,t,e);o.layers=this.layers,this.add(o);let l=new He(Es,Ts,t,e);l.layers=this.layers,this.add(l);let c=new He(Es,Ts,t,e);c.layers=this.layers,this.add(c)}updateCoordinateSystem(){let t=this.coordinateSystem,e=this.children.concat(),[n,s,r,a,o,l]=e;for(let c of e)this.remove(c);if(t===ci)n.up.set(0,1,0),n.lookAt(1,0,0),s.up.set(0,1,0),s.lookAt(-1,0,0),r.up.set(0,0,-1),r.lookAt(0,1,0),a.up.set(0,0,1),a.lookAt(0,-1,0),o.up.set(0,1,0),o.lookAt(0,0,1),l.up.set(0,1,0),l.lookAt(0,0,-1);else if(t===Tr)n.up.set(0,-1,0),n.lookAt(-1,0,0),s.up.set(0,-1,0),s.lookAt(1,0,0),r.up.set(0,0,1),r.lookAt(0,1,0),a.up.set(0,0,-1),a.lookAt(0,-1,0),o.up.set(0,-1,0),o.lookAt(0,0,1),l.up.set(0,-1,0),l.lookAt(0,0,-1);else throw new Error("THREE.CubeCamera.updateCoordinateSystem(): Invalid coordinate system: "+t);for(let c of e)this.add(c),c.updateMatrixWorld()}update(t,e){this.parent===null&&this.updateMatrixWorld();let{renderTarget:n,activeMipmapLevel:s}=this;this.coordinateSystem!==t.coordinateSystem&&(this.coordinateSystem=t.coordinateSystem,this.updateCoordinateSystem());let[r,a,o,l,c,h]=this.children,d=t.getRenderTarget(),u=t.getActiveCubeFace(),m=t.getActiveMipmapLevel(),g=t.xr.enabled;t.xr.enabled=!1;let _=n.texture.mipmapsAutoUpdate;n.texture.mipmapsAutoUpdate=!1;let f=!1;t.isWebGLRenderer===!0?f=t.state.buffers.depth.getReversed():f=t.reversedDepthBuffer,t.setRenderTarget(n,0,s),f&&t.autoClear===!1&&t.clearDepth(),t.render(e,r),t.setRenderTarget(n,1,s),f&&t.autoClear===!1&&t.clearDepth(),t.render(e,a),t.setRenderTarget(n,2,s),f&&t.autoClear===!1&&t.clearDepth(),t.render(e,o),t.setRenderTarget(n,3,s),f&&t.autoClear===!1&&t.clearDepth(),t.render(e,l),t.setRenderTarget(n,4,s),f&&t.autoClear===!1&&t.clearDepth(),t.render(e,c),n.texture.mipmapsAutoUpdate=_,t.setRenderTarget(n,5,s),f&&t.autoClear===!1&&t.clearDepth(),t.render(e,h),t.setRenderTarget(d,u,m),t.xr.enabled=g,n.texture.needsPMREMUpdate=!0}},Yo=class extends He{constructor(t=[]){super(),this.isArrayCamera=!0,this.isMultiViewCamera=!1,this.cameras=t,this.perCameraFrustumCulled=!1}};var ou="\\[\\]\\.:\\/",cy=new RegExp("["+ou+"]","g"),lu="[^"+ou+"]",hy="[^"+ou.replace("\\.","")+"]",uy=/((?:WC+[\/:])*)/.source.replace("WC",lu),dy=/(WCOD+)?/.source.replace("WCOD",hy),fy=/(?:\.(WC+)(?:\[(.+)\])?)?/.source.replace("WC",lu),py=/\.(WC+)(?:\[(.+)\])?/.source.replace("WC",lu),my=new RegExp("^"+uy+dy+fy+py+"$"),gy=["material","materials","bones","map"],Th=class{constructor(t,e,n){let s=n||re.parseTrackName(e);this._targetGroup=t,this._bindings=t.subscribe_(e,s)}getValue(t,e){this.bind();let n=this._targetGroup.nCachedObjects_,s=this._bindings[n];s!==void 0&&s.getValue(t,e)}setValue(t,e){let n=this._bindings;for(let s=this._targetGroup.nCachedObjects_,r=n.length;s!==r;++s)n[s].setValue(t,e)}bind(){let t=this._bindings;for(let e=this._targetGroup.nCachedObjects_,n=t.length;e!==n;++e)t[e].bind()}unbind(){let t=this._bindings;for(let e=this._targetGroup.nCachedObjects_,n=t.length;e!==n;++e)t[e].unbind()}},re=class i{constructor(t,e,n){this.path=e,this.parsedPath=n||i.parseTrackName(e),this.node=i.findNode(t,this.parsedPath.nodeName),this.rootNode=t,this.getValue=this._getValue_unbound,this.setValue=this._setValue_unbound}static create(t,e,n){return t&&t.isAnimationObjectGroup?new i.Composite(t,e,n):new i(t,e,n)}static sanitizeNodeName(t){return t.replace(/\s/g,"_").replace(cy,"")}static parseTrackName(t){let e=my.exec(t);if(e===null)throw new Error("THREE.PropertyBinding: Cannot parse trackName: "+t);let n={nodeName:e[2],objectName:e[3],objectIndex:e[4],propertyName:e[5],propertyIndex:e[6]},s=n.nodeName&&n.nodeName.lastIndexOf(".");if(s!==void 0&&s!==-1){let r=n.nodeName.substring(s+1);gy.indexOf(r)!==-1&&(n.nodeName=n.nodeName.substring(0,s),n.objectName=r)}if(n.propertyName===null||n.propertyName.length===0)throw new Error("THREE.PropertyBinding: can not parse propertyName from trackName: "+t);return n}static findNode(t,e){if(e===void 0||e===""||e==="."||e===-1||e===t.name||e===t.uuid)return t;if(t.skeleton){let n=t.skeleton.getBoneByName(e);if(n!==void 0)return n}if(t.children){let n=function(r){for(let a=0;a<r.length;a++){let o=r[a];if(o.name===e||o.uuid===e)return o;let l=n(o.children);if(l)return l}return null},s=n(t.children);if(s)return s}return null}_getValue_unavailable(){}_setValue_unavailable(){}_getValue_direct(t,e){t[e]=this.targetObject[this.propertyName]}_getValue_array(t,e){let n=this.resolvedProperty;for(let s=0,r=n.length;s!==r;++s)t[e++]=n[s]}_getValue_arrayElement(t,e){t[e]=this.resolvedProperty[this.propertyIndex]}_getValue_toArray(t,e){this.resolvedProperty.toArray(t,e)}_setValue_direct(t,e){this.targetObject[this.propertyName]=t[e]}_setValue_direct_setNeedsUpdate(t,e){this.targetObject[this.propertyName]=t[e],this.targetObject.needsUpdate=!0}_setValue_direct_setMatrixWorldNeedsUpdate(t,e){this.targetObject[this.propertyName]=t[e],this.targetObject.matrixWorldNeedsUpdate=!0}_setValue_array(t,e){let n=this.resolvedProperty;for(let s=0,r=n.length;s!==r;++s)n[s]=t[e++]}_setValue_array_setNeedsUpdate(t,e){let n=this.resolvedProperty;for(let s=0,r=n.length;s!==r;++s)n[s]=t[e++];this.targetObject.needsUpdate=!0}_setValue_array_setMatrixWorldNeedsUpdate(t,e){let n=this.resolvedProperty;for(let s=0,r=n.length;s!==r;++s)n[s]=t[e++];this.targetObject.matrixWorldNeedsUpdate=!0}_setValue_arrayElement(t,e){this.resolvedProperty[this.propertyIndex]=t[e]}_setValue_arrayElement_setNeedsUpdate(t,e){this.resolvedProperty[this.propertyIndex]=t[e],this.targetObject.needsUpdate=!0}_setValue_arrayElement_setMatrixWorldNeedsUpdate(t,e){this.resolvedProperty[this.propertyIndex]=t[e],this.targetObject.matrixWorldNeedsUpdate=!0}_setValue_fromArray(t,e){this.resolvedProperty.fromArray(t,e)}_setValue_fromArray_setNeedsUpdate(t,e){this.resolvedProperty.fromArray(t,e),this.targetObject.needsUpdate=!0}_setValue_fromArray_setMatrixWorldNeedsUpdate(t,e){this.resolvedProperty.fromArray(t,e),this.targetObject.matrixWorldNeedsUpdate=!0}_getValue_unbound(t,e){this.bind(),this.getValue(t,e)}_setValue_unbound(t,e){this.bind(),this.setValue(t,e)}bind(){let t=this.node,e=this.parsedPath,n=e.objectName,s=e.propertyName,r=e.propertyIndex;if(t||(t=i.findNode(this.rootNode,e.nodeName),this.node=t),this.getValue=this._getValue_unavailable,this.setValue=this._setValue_unavailable,!t){Et("PropertyBinding: No target node found for track: "+this.path+".");return}if(n){let c=e.objectIndex;switch(n){case"materials":if(!t.material){Ct("PropertyBinding: Can not bind to material as node does not have a material.",this);return}if(!t.material.materials){Ct("PropertyBinding: Can not bind to material.materials as node.material does not have a materials array.",this);return}t=t.material.materials;break;case"bones":if(!t.skeleton){Ct("PropertyBinding: Can not bind to bones as node does not have a skeleton.",this);return}t=t.skeleton.bones;for(let h=0;h<t.length;h++)if(t[h].name===c){c=h;break}break;case"map":if("map"in t){t=t.map;break}if(!t.material){Ct("PropertyBinding: Can not bind to material as node does not have a material.",this);return}if(!t.material.map){Ct("PropertyBinding: Can not bind to material.map as node.material does not have a map.",this);return}t=t.material.map;break;default:if(t[n]===void 0){Ct("PropertyBinding: Can not bind to objectName of node undefined.",this);return}t=t[n]}if(c!==void 0){if(t[c]===void 0){Ct("PropertyBinding: Trying to bind to objectIndex of objectName, but is undefined.",this,t);return}t=t[c]}}let a=t[s];if(a===void 0){let c=e.nodeName;Ct("PropertyBinding: Trying to update property for track: "+c+"."+s+" but it wasn't found.",t);return}let o=this.Versioning.None;this.targetObject=t,t.isMaterial===!0?o=this.Versioning.NeedsUpdate:t.isObject3D===!0&&(o=this.Versioning.MatrixWorldNeedsUpdate);let l=this.BindingType.Direct;if(r!==void 0){if(s==="morphTargetInfluences"){if(!t.geometry){Ct("PropertyBinding: Can not bind to morphTargetInfluences because node does not have a geometry.",this);return}if(!t.geometry.morphAttributes){Ct("PropertyBinding: Can not bind to morphTargetInfluences because node does not have a geometry.morphAttributes.",this);return}t.morphTargetDictionary[r]!==void 0&&(r=t.morphTargetDictionary[r])}l=this.BindingType.ArrayElement,this.resolvedProperty=a,this.propertyIndex=r}else a.fromArray!==void 0&&a.toArray!==void 0?(l=this.BindingType.HasFromToArray,this.resolvedProperty=a):Array.isArray(a)?(l=this.BindingType.EntireArray,this.resolvedProperty=a):this.propertyName=s;this.getValue=this.GetterByBindingType[l],this.setValue=this.SetterByBindingTypeAndVersioning[l][o]}unbind(){this.node=null,this.getValue=this._getValue_unbound,this.setValue=this._setValue_unbound}};re.Composite=Th;re.prototype.BindingType={Direct:0,EntireArray:1,ArrayElement:2,HasFromToArray:3};re.prototype.Versioning={None:0,NeedsUpdate:1,MatrixWorldNeedsUpdate:2};re.prototype.GetterByBindingType=[re.prototype._getValue_direct,re.prototype._getValue_array,re.prototype._getValue_arrayElement,re.prototype._getValue_toArray];re.prototype.SetterByBindingTypeAndVersioning=[[re.prototype._setValue_direct,re.prototype._setValue_direct_setNeedsUpdate,re.prototype._setValue_direct_setMatrixWorldNeedsUpdate],[re.prototype._setValue_array,re.prototype._setValue_array_setNeedsUpdate,re.prototype._setValue_array_setMatrixWorldNeedsUpdate],[re.prototype._setValue_arrayElement,re.prototype._setValue_arrayElement_setNeedsUpdate,re.prototype._setValue_arrayElement_setMatrixWorldNeedsUpdate],[re.prototype._setValue_fromArray,re.prototype._setValue_fromArray_setNeedsUpdate,re.prototype._setValue_fromArray_setMatrixWorldNeedsUpdate]];var aT=new Float32Array(1);var ks=class{constructor(t=1,e=0,n=0){this.radius=t,this.phi=e,this.theta=n}set(t,e,n){return this.radius=t,this.phi=e,this.theta=n,this}copy(t){return this.radius=t.radius,this.phi=t.phi,this.theta=t.theta,this}makeSafe(){return this.phi=zt(this.phi,1e-6,Math.PI-1e-6),this}setFromVector3(t){return this.setFromCartesianCoords(t.x,t.y,t.z)}setFromCartesianCoords(t,e,n){return this.radius=Math.sqrt(t*t+e*e+n*n),this.radius===0?(this.theta=0,this.phi=0):(this.theta=Math.atan2(t,n),this.phi=Math.acos(zt(e/this.radius,-1,1))),this}clone(){return new this.constructor().copy(this)}};var Ah=class{static{this.prototype.isMatrix2=!0}constructor(t,e,n,s){this.elements=[1,0,0,1],t!==void 0&&this.set(t,e,n,s)}identity(){return this.set(1,0,0,1),this}fromArray(t,e=0){for(let n=0;n<4;n++)this.elements[n]=t[n+e];return this}set(t,e,n,s){let r=this.elements;return r[0]=t,r[2]=e,r[1]=n,r[3]=s,this}};var Br=class extends Ns{constructor(t=10,e=10,n=4473924,s=8947848){n=new Ht(n),s=new Ht(s);let r=e/2,a=t/e,o=t/2,l=[],c=[];for(let u=0,m=0,g=-o;u<=e;u++,g+=a){l.push(-o,0,g,o,0,g),l.push(g,0,-o,g,0,o);let _=u===r?n:s;_.toArray(c,m),m+=3,_.toArray(c,m),m+=3,_.toArray(c,m),m+=3,_.toArray(c,m),m+=3}let h=new Fe;h.setAttribute("position",new me(l,3)),h.setAttribute("color",new me(c,3));let d=new _n({vertexColors:!0,toneMapped:!1});super(h,d),this.type="GridHelper"}dispose(){super.dispose(),this.geometry.dispose(),this.material.dispose()}};var zr=class extends gi{constructor(t,e=null){super(),this.object=t,this.domElement=e,this.enabled=!0,this.state=-1,this.keys={},this.mouseButtons={LEFT:null,MIDDLE:null,RIGHT:null},this.touches={ONE:null,TWO:null}}connect(t){this.domElement!==null&&this.disconnect(),this.domElement=t}disconnect(){}dispose(){}update(){}};function cu(i,t,e,n){let s=_y(n);switch(e){case $h:return i*t;case Zh:return i*t/s.components*s.byteLength;case el:return i*t/s.components*s.byteLength;case wn:return i*t*2/s.components*s.byteLength;case il:return i*t*2/s.components*s.byteLength;case Yh:return i*t*3/s.components*s.byteLength;case vi:return i*t*4/s.components*s.byteLength;case nl:return i*t*4/s.components*s.byteLength;case Gr:case Wr:return Math.floor((i+3)/4)*Math.floor((t+3)/4)*8;case Xr:case qr:return Math.floor((i+3)/4)*Math.floor((t+3)/4)*16;case rl:case ol:return Math.max(i,16)*Math.max(t,8)/4;case sl:case al:return Math.max(i,8)*Math.max(t,8)/2;case ll:case cl:case ul:case dl:return Math.floor((i+3)/4)*Math.floor((t+3)/4)*8;case hl:case $r:case fl:return Math.floor((i+3)/4)*Math.floor((t+3)/4)*16;case pl:return Math.floor((i+3)/4)*Math.floor((t+3)/4)*16;case ml:return Math.floor((i+4)/5)*Math.floor((t+3)/4)*16;case gl:return Math.floor((i+4)/5)*Math.floor((t+4)/5)*16;case _l:return Math.floor((i+5)/6)*Math.floor((t+4)/5)*16;case xl:return Math.floor((i+5)/6)*Math.floor((t+5)/6)*16;case yl:return Math.floor((i+7)/8)*Math.floor((t+4)/5)*16;case vl:return Math.floor((i+7)/8)*Math.floor((t+5)/6)*16;case Sl:return Math.floor((i+7)/8)*Math.floor((t+7)/8)*16;case Ml:return Math.floor((i+9)/10)*Math.floor((t+4)/5)*16;case bl:return Math.floor((i+9)/10)*Math.floor((t+5)/6)*16;case wl:return Math.floor((i+9)/10)*Math.floor((t+7)/8)*16;case El:return Math.floor((i+9)/10)*Math.floor((t+9)/10)*16;case Tl:return Math.floor((i+11)/12)*Math.floor((t+9)/10)*16;case Al:return Math.floor((i+11)/12)*Math.floor((t+11)/12)*16;case Rl:case Cl:case Pl:return Math.ceil(i/4)*Math.ceil(t/4)*16;case Il:case Ll:return Math.ceil(i/4)*Math.ceil(t/4)*8;case Yr:case Dl:return Math.ceil(i/4)*Math.ceil(t/4)*16}throw new Error(`Unable to determine texture byte length for ${e} format.`)}function _y(i){switch(i){case ii:case Gh:return{byteLength:1,components:1};case Vs:case Wh:case yi:return{byteLength:2,components:1};case Qo:case tl:return{byteLength:2,components:4};case _i:case jo:case xi:return{byteLength:4,components:1};case Xh:case qh:return{byteLength:4,components:3}}throw new Error(`THREE.TextureUtils: Unknown texture type ${i}.`)}typeof __THREE_DEVTOOLS__<"u"&&__THREE_DEVTOOLS__.dispatchEvent(new CustomEvent("register",{detail:{revision:"187"}}));typeof window<"u"&&(window.__THREE__?Et("WARNING: Multiple instances of Three.js being imported."):window.__THREE__="187");function Fm(){let i=null,t=!1,e=null,n=null;function s(r,a){n=i.requestAnimationFrame(s),e(r,a)}return{start:function(){t!==!0&&e!==null&&i!==null&&(n=i.requestAnimationFrame(s),t=!0)},stop:function(){i!==null&&i.cancelAnimationFrame(n),t=!1},setAnimationLoop:function(r){e=r},setContext:function(r){i=r}}}function yy(i){let t=new WeakMap;function e(o,l){let c=o.array,h=o.usage,d=c.byteLength,u=i.createBuffer();i.bindBuffer(l,u),i.bufferData(l,c,h),o.onUploadCallback();let m;if(c instanceof Float32Array)m=i.FLOAT;else if(typeof Float16Array<"u"&&c instanceof Float16Array)m=i.HALF_FLOAT;else if(c instanceof Uint16Array)o.isFloat16BufferAttribute?m=i.HALF_FLOAT:m=i.UNSIGNED_SHORT;else if(c instanceof Int16Array)m=i.SHORT;else if(c instanceof Uint32Array)m=i.UNSIGNED_INT;else if(c instanceof Int32Array)m=i.INT;else if(c instanceof Int8Array)m=i.BYTE;else if(c instanceof Uint8Array)m=i.UNSIGNED_BYTE;else if(c instanceof Uint8ClampedArray)m=i.UNSIGNED_BYTE;else throw new Error("THREE.WebGLAttributes: Unsupported buffer data format: "+c);return{buffer:u,type:m,bytesPerElement:c.BYTES_PER_ELEMENT,version:o.version,size:d}}function n(o,l,c){let h=l.array,d=l.updateRanges;if(i.bindBuffer(c,o),d.length===0)i.bufferSubData(c,0,h);else{d.sort((m,g)=>m.start-g.start);let u=0;for(let m=1;m<d.length;m++){let g=d[u],_=d[m];_.start<=g.start+g.count+1?g.count=Math.max(g.count,_.start+_.count-g.start):(++u,d[u]=_)}d.length=u+1;for(let m=0,g=d.length;m<g;m++){let _=d[m];i.bufferSubData(c,_.start*h.BYTES_PER_ELEMENT,h,_.start,_.count)}l.clearUpdateRanges()}l.onUploadCallback()}function s(o){return o.isInterleavedBufferAttribute&&(o=o.data),t.get(o)}function r(o){o.isInterleavedBufferAttribute&&(o=o.data);let l=t.get(o);l&&(i.deleteBuffer(l.buffer),t.delete(o))}function a(o,l){if(o.isInterleavedBufferAttribute&&(o=o.data),o.isGLBufferAttribute){let h=t.get(o);(!h||h.version<o.version)&&t.set(o,{buffer:o.buffer,type:o.type,bytesPerElement:o.elementSize,version:o.version});return}let c=t.get(o);if(c===void 0)t.set(o,e(o,l));else if(c.version<o.version){if(c.size!==o.array.byteLength)throw new Error("THREE.WebGLAttributes: The size of the buffer attribute's array buffer does not match the original size. Resizing buffer attributes is not supported.");n(c.buffer,o,l),c.version=o.version}}return{get:s,remove:r,update:a}}var vy=`#ifdef USE_ALPHAHASH
	if ( diffuseColor.a < getAlphaHashThreshold( vPosition ) ) discard;
#endif`,Sy=`#ifdef USE_ALPHAHASH
	const float ALPHA_HASH_SCALE = 0.05;
	float hash2D( vec2 value ) {
		return fract( 1.0e4 * sin( 17.0 * value.x + 0.1 * value.y ) * ( 0.1 + abs( sin( 13.0 * value.y + value.x ) ) ) );
	}
	float hash3D( vec3 value ) {
		return hash2D( vec2( hash2D( value.xy ), value.z ) );
	}
	float getAlphaHashThreshold( vec3 position ) {
		float maxDeriv = max(
			length( dFdx( position.xyz ) ),
			length( dFdy( position.xyz ) )
		);
		float pixScale = 1.0 / ( ALPHA_HASH_SCALE * maxDeriv );
		vec2 pixScales = vec2(
			exp2( floor( log2( pixScale ) ) ),
			exp2( ceil( log2( pixScale ) ) )
		);
		vec2 alpha = vec2(
			hash3D( floor( pixScales.x * position.xyz ) ),
			hash3D( floor( pixScales.y * position.xyz ) )
		);
		float lerpFactor = fract( log2( pixScale ) );
		float x = ( 1.0 - lerpFactor ) * alpha.x + lerpFactor * alpha.y;
		float a = min( lerpFactor, 1.0 - lerpFactor );
		vec3 cases = vec3(
			x * x / ( 2.0 * a * ( 1.0 - a ) ),
			( x - 0.5 * a ) / ( 1.0 - a ),
			1.0 - ( ( 1.0 - x ) * ( 1.0 - x ) / ( 2.0 * a * ( 1.0 - a ) ) )
		);
		float threshold = ( x < ( 1.0 - a ) )
			? ( ( x < a ) ? cases.x : cases.y )
			: cases.z;
		return clamp( threshold , 1.0e-6, 1.0 );
	}
#endif`,My=`#ifdef USE_ALPHAMAP
	diffuseColor.a *= texture2D( alphaMap, vAlphaMapUv ).g;
#endif`,by=`#ifdef USE_ALPHAMAP
	uniform sampler2D alphaMap;
#endif`,wy=`#ifdef USE_ALPHATEST
	#ifdef ALPHA_TO_COVERAGE
	diffuseColor.a = smoothstep( alphaTest, alphaTest + fwidth( diffuseColor.a ), diffuseColor.a );
	if ( diffuseColor.a == 0.0 ) discard;
	#else
	if ( diffuseColor.a < alphaTest ) discard;
	#endif
#endif`,Ey=`#ifdef USE_ALPHATEST
	uniform float alphaTest;
#endif`,Ty=`#ifdef USE_AOMAP
	float ambientOcclusion = ( texture2D( aoMap, vAoMapUv ).r - 1.0 ) * aoMapIntensity + 1.0;
	reflectedLight.indirectDiffuse *= ambientOcclusion;
	#if defined( USE_CLEARCOAT ) 
		clearcoatSpecularIndirect *= ambientOcclusion;
	#endif
	#if defined( USE_SHEEN ) 
		sheenSpecularIndirect *= ambientOcclusion;
	#endif
	#if defined( USE_ENVMAP ) && defined( STANDARD )
		float dotNV = saturate( dot( geometryNormal, geometryViewDir ) );
		reflectedLight.indirectSpecular *= computeSpecularOcclusion( dotNV, ambientOcclusion, material.roughness );
	#endif
#endif`,Ay=`#ifdef USE_AOMAP
	uniform sampler2D aoMap;
	uniform float aoMapIntensity;
#endif`,Ry=`#ifdef USE_BATCHING
	#if ! defined( GL_ANGLE_multi_draw )
	#define gl_DrawID _gl_DrawID
	uniform int _gl_DrawID;
	#endif
	uniform highp sampler2D batchingTexture;
	uniform highp usampler2D batchingIdTexture;
	mat4 getBatchingMatrix( const in float i ) {
		int size = textureSize( batchingTexture, 0 ).x;
		int j = int( i ) * 4;
		int x = j % size;
		int y = j / size;
		vec4 v1 = texelFetch( batchingTexture, ivec2( x, y ), 0 );
		vec4 v2 = texelFetch( batchingTexture, ivec2( x + 1, y ), 0 );
		vec4 v3 = texelFetch( batchingTexture, ivec2( x + 2, y ), 0 );
		vec4 v4 = texelFetch( batchingTexture, ivec2( x + 3, y ), 0 );
		return mat4( v1, v2, v3, v4 );
	}
	float getIndirectIndex( const in int i ) {
		int size = textureSize( batchingIdTexture, 0 ).x;
		int x = i % size;
		int y = i / size;
		return float( texelFetch( batchingIdTexture, ivec2( x, y ), 0 ).r );
	}
#endif
#ifdef USE_BATCHING_COLOR
	uniform sampler2D batchingColorTexture;
	vec4 getBatchingColor( const in float i ) {
		int size = textureSize( batchingColorTexture, 0 ).x;
		int j = int( i );
		int x = j % size;
		int y = j / size;
		return texelFetch( batchingColorTexture, ivec2( x, y ), 0 );
	}
#endif`,Cy=`#ifdef USE_BATCHING
	mat4 batchingMatrix = getBatchingMatrix( getIndirectIndex( gl_DrawID ) );
#endif`,Py=`vec3 transformed = vec3( position );
#ifdef USE_ALPHAHASH
	vPosition = vec3( position );
#endif`,Iy=`vec3 objectNormal = vec3( normal );
#ifdef USE_TANGENT
	vec3 objectTangent = vec3( tangent.xyz );
#endif`,Ly=`float G_BlinnPhong_Implicit( ) {
	return 0.25;
}
float D_BlinnPhong( const in float shininess, const in float dotNH ) {
	return RECIPROCAL_PI * ( shininess * 0.5 + 1.0 ) * pow( dotNH, shininess );
}
vec3 BRDF_BlinnPhong( const in vec3 lightDir, const in vec3 viewDir, const in vec3 normal, const in vec3 specularColor, const in float shininess ) {
	vec3 halfDir = normalize( lightDir + viewDir );
	float dotNH = saturate( dot( normal, halfDir ) );
	float dotVH = saturate( dot( viewDir, halfDir ) );
	vec3 F = F_Schlick( specularColor, 1.0, dotVH );
	float G = G_BlinnPhong_Implicit( );
	float D = D_BlinnPhong( shininess, dotNH );
	return F * ( G * D );
} // validated`,Dy=`#ifdef USE_IRIDESCENCE
	const mat3 XYZ_TO_REC709 = mat3(
		 3.2404542, -0.9692660,  0.0556434,
		-1.5371385,  1.8760108, -0.2040259,
		-0.4985314,  0.0415560,  1.0572252
	);
	vec3 Fresnel0ToIor( vec3 fresnel0 ) {
		vec3 sqrtF0 = sqrt( fresnel0 );
		return ( vec3( 1.0 ) + sqrtF0 ) / ( vec3( 1.0 ) - sqrtF0 );
	}
	vec3 IorToFresnel0( vec3 transmittedIor, float incidentIor ) {
		return pow2( ( transmittedIor - vec3( incidentIor ) ) / ( transmittedIor + vec3( incidentIor ) ) );
	}
	float IorToFresnel0( float transmittedIor, float incidentIor ) {
		return pow2( ( transmittedIor - incidentIor ) / ( transmittedIor + incidentIor ));
	}
	vec3 evalSensitivity( float OPD, vec3 shift ) {
		float phase = 2.0 * PI * OPD * 1.0e-9;
		vec3 val = vec3( 5.4856e-13, 4.4201e-13, 5.2481e-13 );
		vec3 pos = vec3( 1.6810e+06, 1.7953e+06, 2.2084e+06 );
		vec3 var = vec3( 4.3278e+09, 9.3046e+09, 6.6121e+09 );
		vec3 xyz = val * sqrt( 2.0 * PI * var ) * cos( pos * phase + shift ) * exp( - pow2( phase ) * var );
		xyz.x += 9.7470e-14 * sqrt( 2.0 * PI * 4.5282e+09 ) * cos( 2.2399e+06 * phase + shift[ 0 ] ) * exp( - 4.5282e+09 * pow2( phase ) );
		xyz /= 1.0685e-7;
		vec3 rgb = XYZ_TO_REC709 * xyz;
		return rgb;
	}
	vec3 evalIridescence( float outsideIOR, float eta2, float cosTheta1, float thinFilmThickness, vec3 baseF0 ) {
		vec3 I;
		float iridescenceIOR = mix( outsideIOR, eta2, smoothstep( 0.0, 0.03, thinFilmThickness ) );
		float sinTheta2Sq = pow2( outsideIOR / iridescenceIOR ) * ( 1.0 - pow2( cosTheta1 ) );
		float cosTheta2Sq = 1.0 - sinTheta2Sq;
		if ( cosTheta2Sq < 0.0 ) {
			return vec3( 1.0 );
		}
		float cosTheta2 = sqrt( cosTheta2Sq );
		float R0 = IorToFresnel0( iridescenceIOR, outsideIOR );
		float R12 = F_Schlick( R0, 1.0, cosTheta1 );
		float T121 = 1.0 - R12;
		float phi12 = 0.0;
		if ( iridescenceIOR < outsideIOR ) phi12 = PI;
		float phi21 = PI - phi12;
		vec3 baseIOR = Fresnel0ToIor( clamp( baseF0, 0.0, 0.9999 ) );		vec3 R1 = IorToFresnel0( baseIOR, iridescenceIOR );
		vec3 R23 = F_Schlick( R1, 1.0, cosTheta2 );
		vec3 phi23 = vec3( 0.0 );
		if ( baseIOR[ 0 ] < iridescenceIOR ) phi23[ 0 ] = PI;
		if ( baseIOR[ 1 ] < iridescenceIOR ) phi23[ 1 ] = PI;
		if ( baseIOR[ 2 ] < iridescenceIOR ) phi23[ 2 ] = PI;
		float OPD = 2.0 * iridescenceIOR * thinFilmThickness * cosTheta2;
		vec3 phi = vec3( phi21 ) + phi23;
		vec3 R123 = clamp( R12 * R23, 1e-5, 0.9999 );
		vec3 r123 = sqrt( R123 );
		vec3 Rs = pow2( T121 ) * R23 / ( vec3( 1.0 ) - R123 );
		vec3 C0 = R12 + Rs;
		I = C0;
		vec3 Cm = Rs - T121;
		for ( int m = 1; m <= 2; ++ m ) {
			Cm *= r123;
			vec3 Sm = 2.0 * evalSensitivity( float( m ) * OPD, float( m ) * phi );
			I += Cm * Sm;
		}
		return max( I, vec3( 0.0 ) );
	}
#endif`,Ny=`#ifdef USE_BUMPMAP
	uniform sampler2D bumpMap;
	uniform float bumpScale;
	vec2 dHdxy_fwd() {
		vec2 dSTdx = dFdx( vBumpMapUv );
		vec2 dSTdy = dFdy( vBumpMapUv );
		float Hll = bumpScale * texture2D( bumpMap, vBumpMapUv ).x;
		float dBx = bumpScale * texture2D( bumpMap, vBumpMapUv + dSTdx ).x - Hll;
		float dBy = bumpScale * texture2D( bumpMap, vBumpMapUv + dSTdy ).x - Hll;
		return vec2( dBx, dBy );
	}
	vec3 perturbNormalArb( vec3 surf_pos, vec3 surf_norm, vec2 dHdxy, float faceDirection ) {
		vec3 vSigmaX = normalize( dFdx( surf_pos.xyz ) );
		vec3 vSigmaY = normalize( dFdy( surf_pos.xyz ) );
		vec3 vN = surf_norm;
		vec3 R1 = cross( vSigmaY, vN );
		vec3 R2 = cross( vN, vSigmaX );
		float fDet = dot( vSigmaX, R1 ) * faceDirection;
		vec3 vGrad = sign( fDet ) * ( dHdxy.x * R1 + dHdxy.y * R2 );
		return normalize( abs( fDet ) * surf_norm - vGrad );
	}
#endif`,Oy=`#if NUM_CLIPPING_PLANES > 0
	vec4 plane;
	#ifdef ALPHA_TO_COVERAGE
		float distanceToPlane, distanceGradient;
		float clipOpacity = 1.0;
		#pragma unroll_loop_start
		for ( int i = 0; i < UNION_CLIPPING_PLANES; i ++ ) {
			plane = clippingPlanes[ i ];
			distanceToPlane = - dot( vClipPosition, plane.xyz ) + plane.w;
			distanceGradient = fwidth( distanceToPlane ) / 2.0;
			clipOpacity *= smoothstep( - distanceGradient, distanceGradient, distanceToPlane );
			if ( clipOpacity == 0.0 ) discard;
		}
		#pragma unroll_loop_end
		#if UNION_CLIPPING_PLANES < NUM_CLIPPING_PLANES
			float unionClipOpacity = 1.0;
			#pragma unroll_loop_start
			for ( int i = UNION_CLIPPING_PLANES; i < NUM_CLIPPING_PLANES; i ++ ) {
				plane = clippingPlanes[ i ];
				distanceToPlane = - dot( vClipPosition, plane.xyz ) + plane.w;
				distanceGradient = fwidth( distanceToPlane ) / 2.0;
				unionClipOpacity *= 1.0 - smoothstep( - distanceGradient, distanceGradient, distanceToPlane );
			}
			#pragma unroll_loop_end
			clipOpacity *= 1.0 - unionClipOpacity;
		#endif
		diffuseColor.a *= clipOpacity;
		if ( diffuseColor.a == 0.0 ) discard;
	#else
		#pragma unroll_loop_start
		for ( int i = 0; i < UNION_CLIPPING_PLANES; i ++ ) {
			plane = clippingPlanes[ i ];
			if ( dot( vClipPosition, plane.xyz ) > plane.w ) discard;
		}
		#pragma unroll_loop_end
		#if UNION_CLIPPING_PLANES < NUM_CLIPPING_PLANES
			bool clipped = true;
			#pragma unroll_loop_start
			for ( int i = UNION_CLIPPING_PLANES; i < NUM_CLIPPING_PLANES; i ++ ) {
				plane = clippingPlanes[ i ];
				clipped = ( dot( vClipPosition, plane.xyz ) > plane.w ) && clipped;
			}
			#pragma unroll_loop_end
			if ( clipped ) discard;
		#endif
	#endif
#endif`,Uy=`#if NUM_CLIPPING_PLANES > 0
	varying vec3 vClipPosition;
	uniform vec4 clippingPlanes[ NUM_CLIPPING_PLANES ];
#endif`,Fy=`#if NUM_CLIPPING_PLANES > 0
	varying vec3 vClipPosition;
#endif`,ky=`#if NUM_CLIPPING_PLANES > 0
	vClipPosition = - mvPosition.xyz;
#endif`,By=`#if defined( USE_COLOR ) || defined( USE_COLOR_ALPHA )
	diffuseColor *= vColor;
#endif`,zy=`#if defined( USE_COLOR ) || defined( USE_COLOR_ALPHA )
	varying vec4 vColor;
#endif`,Hy=`#if defined( USE_COLOR ) || defined( USE_COLOR_ALPHA ) || defined( USE_INSTANCING_COLOR ) || defined( USE_BATCHING_COLOR )
	varying vec4 vColor;
#endif`,Vy=`#if defined( USE_COLOR ) || defined( USE_COLOR_ALPHA ) || defined( USE_INSTANCING_COLOR ) || defined( USE_BATCHING_COLOR )
	vColor = vec4( 1.0 );
#endif
#ifdef USE_COLOR_ALPHA
	vColor *= color;
#elif defined( USE_COLOR )
	vColor.rgb *= color;
#endif
#ifdef USE_INSTANCING_COLOR
	vColor.rgb *= instanceColor.rgb;
#endif
#ifdef USE_BATCHING_COLOR
	vColor *= getBatchingColor( getIndirectIndex( gl_DrawID ) );
#endif`,Gy=`#define PI 3.141592653589793
#define PI2 6.283185307179586
#define PI_HALF 1.5707963267948966
#define RECIPROCAL_PI 0.3183098861837907
#define RECIPROCAL_PI2 0.15915494309189535
#define EPSILON 1e-6
#ifndef saturate
#define saturate( a ) clamp( a, 0.0, 1.0 )
#endif
#define whiteComplement( a ) ( 1.0 - saturate( a ) )
float pow2( const in float x ) { return x*x; }
vec3 pow2( const in vec3 x ) { return x*x; }
float pow3( const in float x ) { return x*x*x; }
float pow4( const in float x ) { float x2 = x*x; return x2*x2; }
float max3( const in vec3 v ) { return max( max( v.x, v.y ), v.z ); }
float average( const in vec3 v ) { return dot( v, vec3( 0.3333333 ) ); }
highp float rand( const in vec2 uv ) {
	const highp float a = 12.9898, b = 78.233, c = 43758.5453;
	highp float dt = dot( uv.xy, vec2( a,b ) ), sn = mod( dt, PI );
	return fract( sin( sn ) * c );
}
#ifdef HIGH_PRECISION
	float precisionSafeLength( vec3 v ) { return length( v ); }
#else
	float precisionSafeLength( vec3 v ) {
		float maxComponent = max3( abs( v ) );
		return length( v / maxComponent ) * maxComponent;
	}
#endif
struct IncidentLight {
	vec3 color;
	vec3 direction;
	bool visible;
};
struct ReflectedLight {
	vec3 directDiffuse;
	vec3 directSpecular;
	vec3 indirectDiffuse;
	vec3 indirectSpecular;
};
#ifdef USE_ALPHAHASH
	varying vec3 vPosition;
#endif
vec3 transformDirection( in vec3 dir, in mat4 matrix ) {
	return normalize( ( matrix * vec4( dir, 0.0 ) ).xyz );
}
#define inverseTransformDirection transformDirectionByInverseViewMatrix
vec3 transformNormalByInverseViewMatrix( in vec3 normal, in mat4 viewMatrix ) {
	return normalize( ( vec4( normal, 0.0 ) * viewMatrix ).xyz );
}
vec3 transformDirectionByInverseViewMatrix( in vec3 dir, in mat4 viewMatrix ) {
	return normalize( ( vec4( dir, 0.0 ) * viewMatrix ).xyz );
}
bool isPerspectiveMatrix( mat4 m ) {
	return m[ 2 ][ 3 ] == - 1.0;
}
vec2 equirectUv( in vec3 dir ) {
	float u = atan( dir.z, dir.x ) * RECIPROCAL_PI2 + 0.5;
	float v = asin( clamp( dir.y, - 1.0, 1.0 ) ) * RECIPROCAL_PI + 0.5;
	return vec2( u, v );
}
vec3 BRDF_Lambert( const in vec3 diffuseColor ) {
	return RECIPROCAL_PI * diffuseColor;
}
vec3 F_Schlick( const in vec3 f0, const in float f90, const in float dotVH ) {
	float fresnel = exp2( ( - 5.55473 * dotVH - 6.98316 ) * dotVH );
	return f0 * ( 1.0 - fresnel ) + ( f90 * fresnel );
}
float F_Schlick( const in float f0, const in float f90, const in float dotVH ) {
	float fresnel = exp2( ( - 5.55473 * dotVH - 6.98316 ) * dotVH );
	return f0 * ( 1.0 - fresnel ) + ( f90 * fresnel );
} // validated`,Wy=`vec3 transformedNormal = objectNormal;
#ifdef USE_TANGENT
	vec3 transformedTangent = objectTangent;
#endif
#ifdef USE_BATCHING
	mat3 bm = mat3( batchingMatrix );
	transformedNormal /= vec3( dot( bm[ 0 ], bm[ 0 ] ), dot( bm[ 1 ], bm[ 1 ] ), dot( bm[ 2 ], bm[ 2 ] ) );
	transformedNormal = bm * transformedNormal;
	#ifdef USE_TANGENT
		transformedTangent = bm * transformedTangent;
	#endif
#endif
#ifdef USE_INSTANCING
	mat3 im = mat3( instanceMatrix );
	transformedNormal /= vec3( dot( im[ 0 ], im[ 0 ] ), dot( im[ 1 ], im[ 1 ] ), dot( im[ 2 ], im[ 2 ] ) );
	transformedNormal = im * transformedNormal;
	#ifdef USE_TANGENT
		transformedTangent = im * transformedTangent;
	#endif
#endif
transformedNormal = normalMatrix * transformedNormal;
#ifdef FLIP_SIDED
	transformedNormal = - transformedNormal;
#endif
#ifdef USE_TANGENT
	transformedTangent = ( modelViewMatrix * vec4( transformedTangent, 0.0 ) ).xyz;
#endif`,Xy=`#ifdef USE_DISPLACEMENTMAP
	uniform sampler2D displacementMap;
	uniform float displacementScale;
	uniform float displacementBias;
#endif`,qy=`#ifdef USE_DISPLACEMENTMAP
	transformed += normalize( objectNormal ) * ( texture2D( displacementMap, vDisplacementMapUv ).x * displacementScale + displacementBias );
#endif`,$y=`#ifdef USE_EMISSIVEMAP
	vec4 emissiveColor = texture2D( emissiveMap, vEmissiveMapUv );
	#ifdef DECODE_VIDEO_TEXTURE_EMISSIVE
		emissiveColor = sRGBTransferEOTF( emissiveColor );
	#endif
	totalEmissiveRadiance *= emissiveColor.rgb;
#endif`,Yy=`#ifdef USE_EMISSIVEMAP
	uniform sampler2D emissiveMap;
#endif`,Zy="gl_FragColor = linearToOutputTexel( gl_FragColor );",Ky=`vec4 LinearTransferOETF( in vec4 value ) {
	return value;
}
vec4 sRGBTransferEOTF( in vec4 value ) {
	return vec4( mix( pow( value.rgb * 0.9478672986 + vec3( 0.0521327014 ), vec3( 2.4 ) ), value.rgb * 0.0773993808, vec3( lessThanEqual( value.rgb, vec3( 0.04045 ) ) ) ), value.a );
}
vec4 sRGBTransferOETF( in vec4 value ) {
	return vec4( mix( pow( value.rgb, vec3( 0.41666 ) ) * 1.055 - vec3( 0.055 ), value.rgb * 12.92, vec3( lessThanEqual( value.rgb, vec3( 0.0031308 ) ) ) ), value.a );
}`,Jy=`#ifdef USE_ENVMAP
	#ifdef ENV_WORLDPOS
		vec3 cameraToFrag;
		if ( isOrthographic ) {
			cameraToFrag = normalize( vec3( - viewMatrix[ 0 ][ 2 ], - viewMatrix[ 1 ][ 2 ], - viewMatrix[ 2 ][ 2 ] ) );
		} else {
			cameraToFrag = normalize( vWorldPosition - cameraPosition );
		}
		vec3 worldNormal = transformNormalByInverseViewMatrix( normal, viewMatrix );
		#ifdef ENVMAP_MODE_REFLECTION
			vec3 reflectVec = reflect( cameraToFrag, worldNormal );
		#else
			vec3 reflectVec = refract( cameraToFrag, worldNormal, refractionRatio );
		#endif
	#else
		vec3 reflectVec = vReflect;
	#endif
	#ifdef ENVMAP_TYPE_CUBE
		vec4 envColor = textureCube( envMap, envMapRotation * reflectVec );
		#ifdef ENVMAP_BLENDING_MULTIPLY
			outgoingLight = mix( outgoingLight, outgoingLight * envColor.xyz, specularStrength * reflectivity );
		#elif defined( ENVMAP_BLENDING_MIX )
			outgoingLight = mix( outgoingLight, envColor.xyz, specularStrength * reflectivity );
		#elif defined( ENVMAP_BLENDING_ADD )
			outgoingLight += envColor.xyz * specularStrength * reflectivity;
		#endif
	#endif
#endif`,jy=`#ifdef USE_ENVMAP
	uniform float envMapIntensity;
	uniform mat3 envMapRotation;
	uniform samplerCube envMap;
	#ifdef ENVMAP_TYPE_PMREM
		float roughnessToMip( const in float roughness ) {
			float r = clamp( roughness, 0.0, 1.0 );
			return ENVMAP_MAX_LOD * r * ( 2.0 - r );
		}
	#endif
#endif`,Qy=`#ifdef USE_ENVMAP
	uniform float reflectivity;
	#if defined( USE_BUMPMAP ) || defined( USE_NORMALMAP ) || defined( PHONG ) || defined( LAMBERT )
		#define ENV_WORLDPOS
	#endif
	#ifdef ENV_WORLDPOS
		varying vec3 vWorldPosition;
		uniform float refractionRatio;
	#else
		varying vec3 vReflect;
	#endif
#endif`,tv=`#ifdef USE_ENVMAP
	#if defined( USE_BUMPMAP ) || defined( USE_NORMALMAP ) || defined( PHONG ) || defined( LAMBERT )
		#define ENV_WORLDPOS
	#endif
	#ifdef ENV_WORLDPOS
		
		varying vec3 vWorldPosition;
	#else
		varying vec3 vReflect;
		uniform float refractionRatio;
	#endif
#endif`,ev=`#ifdef USE_ENVMAP
	#ifdef ENV_WORLDPOS
		vWorldPosition = worldPosition.xyz;
	#else
		vec3 cameraToVertex;
		if ( isOrthographic ) {
			cameraToVertex = normalize( vec3( - viewMatrix[ 0 ][ 2 ], - viewMatrix[ 1 ][ 2 ], - viewMatrix[ 2 ][ 2 ] ) );
		} else {
			cameraToVertex = normalize( worldPosition.xyz - cameraPosition );
		}
		vec3 worldNormal = transformNormalByInverseViewMatrix( transformedNormal, viewMatrix );
		#ifdef ENVMAP_MODE_REFLECTION
			vReflect = reflect( cameraToVertex, worldNormal );
		#else
			vReflect = refract( cameraToVertex, worldNormal, refractionRatio );
		#endif
	#endif
#endif`,iv=`#ifdef USE_FOG
	vFogDepth = - mvPosition.z;
#endif`,nv=`#ifdef USE_FOG
	varying float vFogDepth;
#endif`,sv=`#ifdef USE_FOG
	#ifdef FOG_EXP2
		float fogFactor = 1.0 - exp( - fogDensity * fogDensity * vFogDepth * vFogDepth );
	#else
		float fogFactor = smoothstep( fogNear, fogFar, vFogDepth );
	#endif
	gl_FragColor.rgb = mix( gl_FragColor.rgb, fogColor, fogFactor );
#endif`,rv=`#ifdef USE_FOG
	uniform vec3 fogColor;
	varying float vFogDepth;
	#ifdef FOG_EXP2
		uniform float fogDensity;
	#else
		uniform float fogNear;
		uniform float fogFar;
	#endif
#endif`,av=`#ifdef USE_GRADIENTMAP
	uniform sampler2D gradientMap;
#endif
vec3 getGradientIrradiance( vec3 normal, vec3 lightDirection ) {
	float dotNL = dot( normal, lightDirection );
	vec2 coord = vec2( dotNL * 0.5 + 0.5, 0.0 );
	#ifdef USE_GRADIENTMAP
		return vec3( texture2D( gradientMap, coord ).r );
	#else
		vec2 fw = fwidth( coord ) * 0.5;
		return mix( vec3( 0.7 ), vec3( 1.0 ), smoothstep( 0.7 - fw.x, 0.7 + fw.x, coord.x ) );
	#endif
}`,ov=`#ifdef USE_LIGHTMAP
	uniform sampler2D lightMap;
	uniform float lightMapIntensity;
#endif`,lv=`LambertMaterial material;
material.diffuseColor = diffuseColor.rgb;
material.specularStrength = specularStrength;`,cv=`varying vec3 vViewPosition;
struct LambertMaterial {
	vec3 diffuseColor;
	float specularStrength;
};
void RE_Direct_Lambert( const in IncidentLight directLight, const in vec3 geometryPosition, const in vec3 geometryNormal, const in vec3 geometryViewDir, const in vec3 geometryClearcoatNormal, const in LambertMaterial material, inout ReflectedLight reflectedLight ) {
	float dotNL = saturate( dot( geometryNormal, directLight.direction ) );
	vec3 irradiance = dotNL * directLight.color;
	reflectedLight.directDiffuse += irradiance * BRDF_Lambert( material.diffuseColor );
}
void RE_IndirectDiffuse_Lambert( const in vec3 irradiance, const in vec3 geometryPosition, const in vec3 geometryNormal, const in vec3 geometryViewDir, const in vec3 geometryClearcoatNormal, const in LambertMaterial material, inout ReflectedLight reflectedLight ) {
	reflectedLight.indirectDiffuse += irradiance * BRDF_Lambert( material.diffuseColor );
}
#define RE_Direct				RE_Direct_Lambert
#define RE_IndirectDiffuse		RE_IndirectDiffuse_Lambert`,hv=`uniform bool receiveShadow;
uniform vec3 ambientLightColor;
#if defined( USE_LIGHT_PROBES )
	uniform vec3 lightProbe[ 9 ];
#endif
vec3 shGetIrradianceAt( in vec3 normal, in vec3 shCoefficients[ 9 ] ) {
	float x = normal.x, y = normal.y, z = normal.z;
	vec3 result = shCoefficients[ 0 ] * 0.886227;
	result += shCoefficients[ 1 ] * 2.0 * 0.511664 * y;
	result += shCoefficients[ 2 ] * 2.0 * 0.511664 * z;
	result += shCoefficients[ 3 ] * 2.0 * 0.511664 * x;
	result += shCoefficients[ 4 ] * 2.0 * 0.429043 * x * y;
	result += shCoefficients[ 5 ] * 2.0 * 0.429043 * y * z;
	result += shCoefficients[ 6 ] * ( 0.743125 * z * z - 0.247708 );
	result += shCoefficients[ 7 ] * 2.0 * 0.429043 * x * z;
	result += shCoefficients[ 8 ] * 0.429043 * ( x * x - y * y );
	return result;
}
vec3 getLightProbeIrradiance( const in vec3 lightProbe[ 9 ], const in vec3 normal ) {
	vec3 worldNormal = transformNormalByInverseViewMatrix( normal, viewMatrix );
	vec3 irradiance = shGetIrradianceAt( worldNormal, lightProbe );
	return irradiance;
}
vec3 getAmbientLightIrradiance( const in vec3 ambientLightColor ) {
	vec3 irradiance = ambientLightColor;
	return irradiance;
}
float getDistanceAttenuation( const in float lightDistance, const in float cutoffDistance, const in float decayExponent ) {
	float distanceFalloff = 1.0 / max( pow( lightDistance, decayExponent ), 0.01 );
	if ( cutoffDistance > 0.0 ) {
		distanceFalloff *= pow2( saturate( 1.0 - pow4( lightDistance / cutoffDistance ) ) );
	}
	return distanceFalloff;
}
float getSpotAttenuation( const in float coneCosine, const in float penumbraCosine, const in float angleCosine ) {
	return smoothstep( coneCosine, penumbraCosine, angleCosine );
}
#if NUM_SUN_LIGHTS > 0
	struct SunLight {
		vec3 direction;
		vec3 color;
	};
	uniform SunLight sunLights[ NUM_SUN_LIGHTS ];
	void getSunLightInfo( const in SunLight sunLight, out IncidentLight light ) {
		light.color = sunLight.color;
		light.direction = sunLight.direction;
		light.visible = true;
	}
#endif
#if NUM_DIR_LIGHTS > 0
	struct DirectionalLight {
		vec3 direction;
		vec3 color;
	};
	uniform DirectionalLight directionalLights[ NUM_DIR_LIGHTS ];
	void getDirectionalLightInfo( const in DirectionalLight directionalLight, out IncidentLight light ) {
		light.color = directionalLight.color;
		light.direction = directionalLight.direction;
		light.visible = true;
	}
#endif
#if NUM_POINT_LIGHTS > 0
	struct PointLight {
		vec3 position;
		vec3 color;
		float distance;
		float decay;
	};
	uniform PointLight pointLights[ NUM_POINT_LIGHTS ];
	void getPointLightInfo( const in PointLight pointLight, const in vec3 geometryPosition, out IncidentLight light ) {
		vec3 lVector = pointLight.position - geometryPosition;
		light.direction = normalize( lVector );
		float lightDistance = length( lVector );
		light.color = pointLight.color;
		light.color *= getDistanceAttenuation( lightDistance, pointLight.distance, pointLight.decay );
		light.visible = ( light.color != vec3( 0.0 ) );
	}
#endif
#if NUM_SPOT_LIGHTS > 0
	struct SpotLight {
		vec3 position;
		vec3 direction;
		vec3 color;
		float distance;
		float decay;
		float coneCos;
		float penumbraCos;
	};
	uniform SpotLight spotLights[ NUM_SPOT_LIGHTS ];
	void getSpotLightInfo( const in SpotLight spotLight, const in vec3 geometryPosition, out IncidentLight light ) {
		vec3 lVector = spotLight.position - geometryPosition;
		light.direction = normalize( lVector );
		float angleCos = dot( light.direction, spotLight.direction );
		float spotAttenuation = getSpotAttenuation( spotLight.coneCos, spotLight.penumbraCos, angleCos );
		if ( spotAttenuation > 0.0 ) {
			float lightDistance = length( lVector );
			light.color = spotLight.color * spotAttenuation;
			light.color *= getDistanceAttenuation( lightDistance, spotLight.distance, spotLight.decay );
			light.visible = ( light.color != vec3( 0.0 ) );
		} else {
			light.color = vec3( 0.0 );
			light.visible = false;
		}
	}
#endif
#if NUM_RECT_AREA_LIGHTS > 0
	struct RectAreaLight {
		vec3 color;
		vec3 position;
		vec3 halfWidth;
		vec3 halfHeight;
	};
	uniform sampler2D ltc_1;	uniform sampler2D ltc_2;
	uniform RectAreaLight rectAreaLights[ NUM_RECT_AREA_LIGHTS ];
#endif
#if NUM_HEMI_LIGHTS > 0
	struct HemisphereLight {
		vec3 direction;
		vec3 skyColor;
		vec3 groundColor;
	};
	uniform HemisphereLight hemisphereLights[ NUM_HEMI_LIGHTS ];
	vec3 getHemisphereLightIrradiance( const in HemisphereLight hemiLight, const in vec3 normal ) {
		float dotNL = dot( normal, hemiLight.direction );
		float hemiDiffuseWeight = 0.5 * dotNL + 0.5;
		vec3 irradiance = mix( hemiLight.groundColor, hemiLight.skyColor, hemiDiffuseWeight );
		return irradiance;
	}
#endif
#include <lightprobes_pars_fragment>`,uv=`#ifdef USE_ENVMAP
	vec3 getIBLIrradiance( const in vec3 normal ) {
		#ifdef ENVMAP_TYPE_PMREM
			vec3 worldNormal = transformNormalByInverseViewMatrix( normal, viewMatrix );
			vec4 envMapColor = textureLod( envMap, envMapRotation * worldNormal, ENVMAP_MAX_LOD );
			return PI * envMapColor.rgb * envMapIntensity;
		#else
			return vec3( 0.0 );
		#endif
	}
	vec3 getIBLRadiance( const in vec3 viewDir, const in vec3 normal, const in float roughness ) {
		#ifdef ENVMAP_TYPE_PMREM
			vec3 reflectVec = reflect( - viewDir, normal );
			reflectVec = normalize( mix( reflectVec, normal, pow4( roughness ) ) );
			reflectVec = transformDirectionByInverseViewMatrix( reflectVec, viewMatrix );
			vec4 envMapColor = textureLod( envMap, envMapRotation * reflectVec, roughnessToMip( roughness ) );
			return envMapColor.rgb * envMapIntensity;
		#else
			return vec3( 0.0 );
		#endif
	}
	#ifdef USE_RETROREFLECTION
		vec3 getIBLRetroRadiance( const in vec3 viewDir, const in vec3 normal, const in float roughness ) {
			#ifdef ENVMAP_TYPE_PMREM
				vec3 retroVec = normalize( mix( viewDir, normal, pow4( roughness ) ) );
				retroVec = transformDirectionByInverseViewMatrix( retroVec, viewMatrix );
				vec4 envMapColor = textureLod( envMap, envMapRotation * retroVec, roughnessToMip( roughness ) );
				return envMapColor.rgb * envMapIntensity;
			#else
				return vec3( 0.0 );
			#endif
		}
	#endif
	#ifdef USE_ANISOTROPY
		vec3 getIBLAnisotropyRadiance( const in vec3 viewDir, const in vec3 normal, const in float roughness, const in vec3 bitangent, const in float anisotropy ) {
			#ifdef ENVMAP_TYPE_PMREM
				vec3 bentNormal = cross( bitangent, viewDir );
				bentNormal = normalize( cross( bentNormal, bitangent ) );
				bentNormal = normalize( mix( bentNormal, normal, pow2( pow2( 1.0 - anisotropy * ( 1.0 - roughness ) ) ) ) );
				return getIBLRadiance( viewDir, bentNormal, roughness );
			#else
				return vec3( 0.0 );
			#endif
		}
		#ifdef USE_RETROREFLECTION
			vec3 getIBLAnisotropyRetroRadiance( const in vec3 viewDir, const in vec3 normal, const in float roughness, const in vec3 bitangent, const in float anisotropy ) {
				#ifdef ENVMAP_TYPE_PMREM
					vec3 bentNormal = cross( bitangent, viewDir );
					bentNormal = normalize( cross( bentNormal, bitangent ) );
					bentNormal = normalize( mix( bentNormal, normal, pow2( pow2( 1.0 - anisotropy * ( 1.0 - roughness ) ) ) ) );
					return getIBLRetroRadiance( viewDir, bentNormal, roughness );
				#else
					return vec3( 0.0 );
				#endif
			}
		#endif
	#endif
#endif`,dv=`ToonMaterial material;
material.diffuseColor = diffuseColor.rgb;`,fv=`varying vec3 vViewPosition;
struct ToonMaterial {
	vec3 diffuseColor;
};
void RE_Direct_Toon( const in IncidentLight directLight, const in vec3 geometryPosition, const in vec3 geometryNormal, const in vec3 geometryViewDir, const in vec3 geometryClearcoatNormal, const in ToonMaterial material, inout ReflectedLight reflectedLight ) {
	vec3 irradiance = getGradientIrradiance( geometryNormal, directLight.direction ) * directLight.color;
	reflectedLight.directDiffuse += irradiance * BRDF_Lambert( material.diffuseColor );
}
void RE_IndirectDiffuse_Toon( const in vec3 irradiance, const in vec3 geometryPosition, const in vec3 geometryNormal, const in vec3 geometryViewDir, const in vec3 geometryClearcoatNormal, const in ToonMaterial material, inout ReflectedLight reflectedLight ) {
	reflectedLight.indirectDiffuse += irradiance * BRDF_Lambert( material.diffuseColor );
}
#define RE_Direct				RE_Direct_Toon
#define RE_IndirectDiffuse		RE_IndirectDiffuse_Toon`,pv=`BlinnPhongMaterial material;
material.diffuseColor = diffuseColor.rgb;
material.specularColor = specular;
material.specularShininess = shininess;
material.specularStrength = specularStrength;`,mv=`varying vec3 vViewPosition;
struct BlinnPhongMaterial {
	vec3 diffuseColor;
	vec3 specularColor;
	float specularShininess;
	float specularStrength;
};
void RE_Direct_BlinnPhong( const in IncidentLight directLight, const in vec3 geometryPosition, const in vec3 geometryNormal, const in vec3 geometryViewDir, const in vec3 geometryClearcoatNormal, const in BlinnPhongMaterial material, inout ReflectedLight reflectedLight ) {
	float dotNL = saturate( dot( geometryNormal, directLight.direction ) );
	vec3 irradiance = dotNL * directLight.color;
	reflectedLight.directDiffuse += irradiance * BRDF_Lambert( material.diffuseColor );
	reflectedLight.directSpecular += irradiance * BRDF_BlinnPhong( directLight.direction, geometryViewDir, geometryNormal, material.specularColor, material.specularShininess ) * material.specularStrength;
}
void RE_IndirectDiffuse_BlinnPhong( const in vec3 irradiance, const in vec3 geometryPosition, const in vec3 geometryNormal, const in vec3 geometryViewDir, const in vec3 geometryClearcoatNormal, const in BlinnPhongMaterial material, inout ReflectedLight reflectedLight ) {
	reflectedLight.indirectDiffuse += irradiance * BRDF_Lambert( material.diffuseColor );
}
#define RE_Direct				RE_Direct_BlinnPhong
#define RE_IndirectDiffuse		RE_IndirectDiffuse_BlinnPhong`,gv=`PhysicalMaterial material;
material.diffuseColor = diffuseColor.rgb;
material.diffuseContribution = diffuseColor.rgb * ( 1.0 - metalnessFactor );
material.metalness = metalnessFactor;
vec3 dxy = max( abs( dFdx( nonPerturbedNormal ) ), abs( dFdy( nonPerturbedNormal ) ) );
float geometryRoughness = max( max( dxy.x, dxy.y ), dxy.z );
material.roughness = max( roughnessFactor, 0.045 );
material.roughness += geometryRoughness;
material.roughness = min( material.roughness, 1.0 );
#ifdef USE_DIFFUSE_ROUGHNESS
	float diffuseRoughnessFactor = diffuseRoughness;
	#ifdef USE_DIFFUSE_ROUGHNESSMAP
		diffuseRoughnessFactor *= texture2D( diffuseRoughnessMap, vDiffuseRoughnessMapUv ).r;
	#endif
	material.diffuseRoughness = saturate( diffuseRoughnessFactor );
#endif
#ifdef IOR
	material.ior = ior;
	#ifdef USE_SPECULAR
		float specularIntensityFactor = specularIntensity;
		vec3 specularColorFactor = specularColor;
		#ifdef USE_SPECULAR_COLORMAP
			specularColorFactor *= texture2D( specularColorMap, vSpecularColorMapUv ).rgb;
		#endif
		#ifdef USE_SPECULAR_INTENSITYMAP
			specularIntensityFactor *= texture2D( specularIntensityMap, vSpecularIntensityMapUv ).a;
		#endif
		material.specularF90 = mix( specularIntensityFactor, 1.0, metalnessFactor );
	#else
		float specularIntensityFactor = 1.0;
		vec3 specularColorFactor = vec3( 1.0 );
		material.specularF90 = 1.0;
	#endif
	material.specularColor = min( pow2( ( material.ior - 1.0 ) / ( material.ior + 1.0 ) ) * specularColorFactor, vec3( 1.0 ) ) * specularIntensityFactor;
	material.specularColorBlended = mix( material.specularColor, diffuseColor.rgb, metalnessFactor );
#else
	material.specularColor = vec3( 0.04 );
	material.specularColorBlended = mix( material.specularColor, diffuseColor.rgb, metalnessFactor );
	material.specularF90 = 1.0;
#endif
#ifdef USE_CLEARCOAT
	material.clearcoat = clearcoat;
	material.clearcoatRoughness = clearcoatRoughness;
	material.clearcoatF0 = vec3( 0.04 );
	material.clearcoatF90 = 1.0;
	#ifdef USE_CLEARCOATMAP
		material.clearcoat *= texture2D( clearcoatMap, vClearcoatMapUv ).x;
	#endif
	#ifdef USE_CLEARCOAT_ROUGHNESSMAP
		material.clearcoatRoughness *= texture2D( clearcoatRoughnessMap, vClearcoatRoughnessMapUv ).y;
	#endif
	material.clearcoat = saturate( material.clearcoat );	material.clearcoatRoughness = max( material.clearcoatRoughness, 0.045 );
	material.clearcoatRoughness += geometryRoughness;
	material.clearcoatRoughness = min( material.clearcoatRoughness, 1.0 );
#endif
#ifdef USE_DISPERSION
	material.dispersion = dispersion;
#endif
#ifdef USE_RETROREFLECTION
	material.retroreflectivity = retroreflectivity;
#endif
#ifdef USE_IRIDESCENCE
	material.iridescence = iridescence;
	material.iridescenceIOR = iridescenceIOR;
	#ifdef USE_IRIDESCENCEMAP
		material.iridescence *= texture2D( iridescenceMap, vIridescenceMapUv ).r;
	#endif
	#ifdef USE_IRIDESCENCE_THICKNESSMAP
		material.iridescenceThickness = (iridescenceThicknessMaximum - iridescenceThicknessMinimum) * texture2D( iridescenceThicknessMap, vIridescenceThicknessMapUv ).g + iridescenceThicknessMinimum;
	#else
		material.iridescenceThickness = iridescenceThicknessMaximum;
	#endif
#endif
#ifdef USE_SHEEN
	material.sheenColor = sheenColor;
	#ifdef USE_SHEEN_COLORMAP
		material.sheenColor *= texture2D( sheenColorMap, vSheenColorMapUv ).rgb;
	#endif
	material.sheenRoughness = clamp( sheenRoughness, 0.0001, 1.0 );
	#ifdef USE_SHEEN_ROUGHNESSMAP
		material.sheenRoughness *= texture2D( sheenRoughnessMap, vSheenRoughnessMapUv ).a;
	#endif
#endif
#ifdef USE_ANISOTROPY
	#ifdef USE_ANISOTROPYMAP
		mat2 anisotropyMat = mat2( anisotropyVector.x, anisotropyVector.y, - anisotropyVector.y, anisotropyVector.x );
		vec3 anisotropyPolar = texture2D( anisotropyMap, vAnisotropyMapUv ).rgb;
		vec2 anisotropyV = anisotropyMat * normalize( 2.0 * anisotropyPolar.rg - vec2( 1.0 ) ) * anisotropyPolar.b;
	#else
		vec2 anisotropyV = anisotropyVector;
	#endif
	material.anisotropy = length( anisotropyV );
	if( material.anisotropy == 0.0 ) {
		anisotropyV = vec2( 1.0, 0.0 );
	} else {
		anisotropyV /= material.anisotropy;
		material.anisotropy = saturate( material.anisotropy );
	}
	material.alphaT = mix( pow2( material.roughness ), 1.0, pow2( material.anisotropy ) );
	material.anisotropyT = tbn[ 0 ] * anisotropyV.x + tbn[ 1 ] * anisotropyV.y;
	material.anisotropyB = tbn[ 1 ] * anisotropyV.x - tbn[ 0 ] * anisotropyV.y;
#endif`,_v=`uniform sampler2D dfgLUT;
struct PhysicalMaterial {
	vec3 diffuseColor;
	vec3 diffuseContribution;
	vec3 specularColor;
	vec3 specularColorBlended;
	float roughness;
	float metalness;
	float specularF90;
	float dispersion;
	vec2 dfg;
	vec3 multiScatteringCompensation;
	#ifdef USE_DIFFUSE_ROUGHNESS
		float diffuseRoughness;
	#endif
	#ifdef USE_RETROREFLECTION
		float retroreflectivity;
	#endif
	#ifdef USE_CLEARCOAT
		float clearcoat;
		float clearcoatRoughness;
		vec3 clearcoatF0;
		float clearcoatF90;
	#endif
	#ifdef USE_IRIDESCENCE
		float iridescence;
		float iridescenceIOR;
		float iridescenceThickness;
		vec3 iridescenceFresnel;
		vec3 iridescenceF0Dielectric;
		vec3 iridescenceF0Metallic;
	#endif
	#ifdef USE_SHEEN
		vec3 sheenColor;
		float sheenRoughness;
	#endif
	#ifdef IOR
		float ior;
	#endif
	#ifdef USE_TRANSMISSION
		float transmission;
		float transmissionAlpha;
		float thickness;
		float attenuationDistance;
		vec3 attenuationColor;
	#endif
	#ifdef USE_ANISOTROPY
		float anisotropy;
		float alphaT;
		vec3 anisotropyT;
		vec3 anisotropyB;
	#endif
};
vec3 clearcoatSpecularDirect = vec3( 0.0 );
vec3 clearcoatSpecularIndirect = vec3( 0.0 );
vec3 sheenSpecularDirect = vec3( 0.0 );
vec3 sheenSpecularIndirect = vec3(0.0 );
vec3 Schlick_to_F0( const in vec3 f, const in float f90, const in float dotVH ) {
    float x = clamp( 1.0 - dotVH, 0.0, 1.0 );
    float x2 = x * x;
    float x5 = clamp( x * x2 * x2, 0.0, 0.9999 );
    return ( f - vec3( f90 ) * x5 ) / ( 1.0 - x5 );
}
#ifdef USE_DIFFUSE_ROUGHNESS
	const float EON_EPSILON = 1e-7;
	float FON_DirectionalAlbedo( const in float mu, const in float roughness, const in float A ) {
		float muComp = 1.0 - mu;
		float gOverPi = muComp * ( 0.0571085289 + muComp * ( 0.491881867 + muComp * ( - 0.332181442 + muComp * 0.0714429953 ) ) );
		return A * ( 1.0 + roughness * gOverPi );
	}
	vec3 BRDF_EON( const in vec3 lightDir, const in vec3 viewDir, const in vec3 normal, const in vec3 diffuseColor, const in float roughness ) {
		vec3 rho = saturate( diffuseColor );
		if ( roughness <= EON_EPSILON ) return BRDF_Lambert( rho );
		float dotNL = saturate( dot( normal, lightDir ) );
		float dotNV = saturate( dot( normal, viewDir ) );
		float s = dot( lightDir, viewDir ) - dotNL * dotNV;
		float sOverT = ( s > 0.0 ) ? s / max( max( dotNL, dotNV ), EON_EPSILON ) : s;
		float A = 1.0 / ( 1.0 + ( 0.5 - 2.0 / ( 3.0 * PI ) ) * roughness );
		vec3 singleScatter = rho * RECIPROCAL_PI * A * ( 1.0 + roughness * sOverT );
		float averageAlbedo = A * ( 1.0 + ( 2.0 / 3.0 - 28.0 / ( 15.0 * PI ) ) * roughness );
		float albedoV = FON_DirectionalAlbedo( dotNV, roughness, A );
		float albedoL = FON_DirectionalAlbedo( dotNL, roughness, A );
		vec3 rhoMultiScatter = rho * rho * averageAlbedo / max( vec3( EON_EPSILON ), vec3( 1.0 ) - rho * ( 1.0 - averageAlbedo ) );
		vec3 multiScatter = rhoMultiScatter * RECIPROCAL_PI
			* max( EON_EPSILON, 1.0 - albedoV )
			* max( EON_EPSILON, 1.0 - albedoL )
			/ max( EON_EPSILON, 1.0 - averageAlbedo );
		return singleScatter + multiScatter;
	}
	vec3 EON_DirectionalAlbedo( const in vec3 diffuseColor, const in float roughness, const in float dotNV ) {
		vec3 rho = saturate( diffuseColor );
		if ( roughness <= EON_EPSILON ) return rho;
		float A = 1.0 / ( 1.0 + ( 0.5 - 2.0 / ( 3.0 * PI ) ) * roughness );
		float directionalAlbedo = FON_DirectionalAlbedo( dotNV, roughness, A );
		float averageAlbedo = A * ( 1.0 + ( 2.0 / 3.0 - 28.0 / ( 15.0 * PI ) ) * roughness );
		vec3 rhoMultiScatter = rho * rho * averageAlbedo / max( vec3( EON_EPSILON ), vec3( 1.0 ) - rho * ( 1.0 - averageAlbedo ) );
		return rho * directionalAlbedo + rhoMultiScatter * ( 1.0 - directionalAlbedo );
	}
#endif
float V_GGX_SmithCorrelated( const in float alpha, const in float dotNL, const in float dotNV ) {
	float a2 = pow2( alpha );
	float gv = dotNL * sqrt( a2 + ( 1.0 - a2 ) * pow2( dotNV ) );
	float gl = dotNV * sqrt( a2 + ( 1.0 - a2 ) * pow2( dotNL ) );
	return 0.5 / max( gv + gl, EPSILON );
}
float D_GGX( const in float alpha, const in float dotNH ) {
	float a2 = pow2( alpha );
	float denom = pow2( dotNH ) * ( a2 - 1.0 ) + 1.0;
	return RECIPROCAL_PI * a2 / pow2( denom );
}
#ifdef USE_ANISOTROPY
	float V_GGX_SmithCorrelated_Anisotropic( const in float alphaT, const in float alphaB, const in float dotTV, const in float dotBV, const in float dotTL, const in float dotBL, const in float dotNV, const in float dotNL ) {
		float gv = dotNL * length( vec3( alphaT * dotTV, alphaB * dotBV, dotNV ) );
		float gl = dotNV * length( vec3( alphaT * dotTL, alphaB * dotBL, dotNL ) );
		return 0.5 / max( gv + gl, EPSILON );
	}
	float D_GGX_Anisotropic( const in float alphaT, const in float alphaB, const in float dotNH, const in float dotTH, const in float dotBH ) {
		float a2 = alphaT * alphaB;
		highp vec3 v = vec3( alphaB * dotTH, alphaT * dotBH, a2 * dotNH );
		highp float v2 = dot( v, v );
		float w2 = a2 / v2;
		return RECIPROCAL_PI * a2 * pow2 ( w2 );
	}
#endif
#ifdef USE_CLEARCOAT
	vec3 BRDF_GGX_Clearcoat( const in vec3 lightDir, const in vec3 viewDir, const in vec3 normal, const in PhysicalMaterial material) {
		vec3 f0 = material.clearcoatF0;
		float f90 = material.clearcoatF90;
		float roughness = max( material.clearcoatRoughness, 0.045 );
		float alpha = pow2( roughness );
		vec3 halfDir = normalize( lightDir + viewDir );
		float dotNL = saturate( dot( normal, lightDir ) );
		float dotNV = saturate( dot( normal, viewDir ) );
		float dotNH = saturate( dot( normal, halfDir ) );
		float dotVH = saturate( dot( viewDir, halfDir ) );
		vec3 F = F_Schlick( f0, f90, dotVH );
		float V = V_GGX_SmithCorrelated( alpha, dotNL, dotNV );
		float D = D_GGX( alpha, dotNH );
		return F * ( V * D );
	}
#endif
vec3 BRDF_GGX( const in vec3 lightDir, const in vec3 viewDir, const in vec3 normal, const in PhysicalMaterial material ) {
	vec3 f0 = material.specularColorBlended;
	float f90 = material.specularF90;
	float roughness = max( material.roughness, 0.045 );
	float alpha = pow2( roughness );
	vec3 halfDir = normalize( lightDir + viewDir );
	float dotNL = saturate( dot( normal, lightDir ) );
	float dotNV = saturate( dot( normal, viewDir ) );
	float dotNH = saturate( dot( normal, halfDir ) );
	float dotVH = saturate( dot( viewDir, halfDir ) );
	vec3 F = F_Schlick( f0, f90, dotVH );
	#ifdef USE_IRIDESCENCE
		F = mix( F, material.iridescenceFresnel, material.iridescence );
	#endif
	#ifdef USE_ANISOTROPY
		float dotTL = dot( material.anisotropyT, lightDir );
		float dotTV = dot( material.anisotropyT, viewDir );
		float dotTH = dot( material.anisotropyT, halfDir );
		float dotBL = dot( material.anisotropyB, lightDir );
		float dotBV = dot( material.anisotropyB, viewDir );
		float dotBH = dot( material.anisotropyB, halfDir );
		float alphaT = max( material.alphaT, alpha );
		float V = V_GGX_SmithCorrelated_Anisotropic( alphaT, alpha, dotTV, dotBV, dotTL, dotBL, dotNV, dotNL );
		float D = D_GGX_Anisotropic( alphaT, alpha, dotNH, dotTH, dotBH );
	#else
		float V = V_GGX_SmithCorrelated( alpha, dotNL, dotNV );
		float D = D_GGX( alpha, dotNH );
	#endif
	return F * ( V * D );
}
vec2 LTC_Uv( const in vec3 N, const in vec3 V, const in float roughness ) {
	const float LUT_SIZE = 64.0;
	const float LUT_SCALE = ( LUT_SIZE - 1.0 ) / LUT_SIZE;
	const float LUT_BIAS = 0.5 / LUT_SIZE;
	float dotNV = saturate( dot( N, V ) );
	vec2 uv = vec2( roughness, sqrt( 1.0 - dotNV ) );
	uv = uv * LUT_SCALE + LUT_BIAS;
	return uv;
}
float LTC_ClippedSphereFormFactor( const in vec3 f ) {
	float l = length( f );
	return max( ( l * l + f.z ) / ( l + 1.0 ), 0.0 );
}
vec3 LTC_EdgeVectorFormFactor( const in vec3 v1, const in vec3 v2 ) {
	float x = dot( v1, v2 );
	float y = abs( x );
	float a = 0.8543985 + ( 0.4965155 + 0.0145206 * y ) * y;
	float b = 3.4175940 + ( 4.1616724 + y ) * y;
	float v = a / b;
	float theta_sintheta = ( x > 0.0 ) ? v : 0.5 * inversesqrt( max( 1.0 - x * x, 1e-7 ) ) - v;
	return cross( v1, v2 ) * theta_sintheta;
}
vec3 LTC_Evaluate( const in vec3 N, const in vec3 V, const in vec3 P, const in mat3 mInv, const in vec3 rectCoords[ 4 ] ) {
	vec3 v1 = rectCoords[ 1 ] - rectCoords[ 0 ];
	vec3 v2 = rectCoords[ 3 ] - rectCoords[ 0 ];
	vec3 lightNormal = cross( v1, v2 );
	if( dot( lightNormal, P - rectCoords[ 0 ] ) < 0.0 ) return vec3( 0.0 );
	vec3 T1, T2;
	T1 = normalize( V - N * dot( V, N ) );
	T2 = - cross( N, T1 );
	mat3 mat = mInv * transpose( mat3( T1, T2, N ) );
	vec3 coords[ 4 ];
	coords[ 0 ] = mat * ( rectCoords[ 0 ] - P );
	coords[ 1 ] = mat * ( rectCoords[ 1 ] - P );
	coords[ 2 ] = mat * ( rectCoords[ 2 ] - P );
	coords[ 3 ] = mat * ( rectCoords[ 3 ] - P );
	coords[ 0 ] = normalize( coords[ 0 ] );
	coords[ 1 ] = normalize( coords[ 1 ] );
	coords[ 2 ] = normalize( coords[ 2 ] );
	coords[ 3 ] = normalize( coords[ 3 ] );
	vec3 vectorFormFactor = vec3( 0.0 );
	vectorFormFactor += LTC_EdgeVectorFormFactor( coords[ 0 ], coords[ 1 ] );
	vectorFormFactor += LTC_EdgeVectorFormFactor( coords[ 1 ], coords[ 2 ] );
	vectorFormFactor += LTC_EdgeVectorFormFactor( coords[ 2 ], coords[ 3 ] );
	vectorFormFactor += LTC_EdgeVectorFormFactor( coords[ 3 ], coords[ 0 ] );
	float result = LTC_ClippedSphereFormFactor( vectorFormFactor );
	return vec3( result );
}
#if defined( USE_SHEEN )
float D_Charlie( float roughness, float dotNH ) {
	float alpha = pow2( roughness );
	float invAlpha = 1.0 / alpha;
	float cos2h = dotNH * dotNH;
	float sin2h = max( 1.0 - cos2h, 0.0078125 );
	return ( 2.0 + invAlpha ) * pow( sin2h, invAlpha * 0.5 ) / ( 2.0 * PI );
}
float V_Neubelt( float dotNV, float dotNL ) {
	return saturate( 1.0 / ( 4.0 * ( dotNL + dotNV - dotNL * dotNV ) ) );
}
vec3 BRDF_Sheen( const in vec3 lightDir, const in vec3 viewDir, const in vec3 normal, vec3 sheenColor, const in float sheenRoughness ) {
	vec3 halfDir = normalize( lightDir + viewDir );
	float dotNL = saturate( dot( normal, lightDir ) );
	float dotNV = saturate( dot( normal, viewDir ) );
	float dotNH = saturate( dot( normal, halfDir ) );
	float D = D_Charlie( sheenRoughness, dotNH );
	float V = V_Neubelt( dotNV, dotNL );
	return sheenColor * ( D * V );
}
#endif
float IBLSheenBRDF( const in vec3 normal, const in vec3 viewDir, const in float roughness ) {
	float dotNV = saturate( dot( normal, viewDir ) );
	float r2 = roughness * roughness;
	float rInv = 1.0 / ( roughness + 0.1 );
	float a = -1.9362 + 1.0678 * roughness + 0.4573 * r2 - 0.8469 * rInv;
	float b = -0.6014 + 0.5538 * roughness - 0.4670 * r2 - 0.1255 * rInv;
	float DG = exp( a * dotNV + b );
	return saturate( DG );
}
vec3 EnvironmentBRDF( const in vec3 normal, const in vec3 viewDir, const in vec3 specularColor, const in float specularF90, const in float roughness ) {
	float dotNV = saturate( dot( normal, viewDir ) );
	vec2 fab = texture2D( dfgLUT, vec2( roughness, dotNV ) ).rg;
	return specularColor * fab.x + specularF90 * fab.y;
}
#ifdef USE_IRIDESCENCE
void computeMultiscatteringIridescence( const in vec2 fab, const in vec3 specularColor, const in float specularF90, const in float iridescence, const in vec3 iridescenceF0, inout vec3 singleScatter, inout vec3 multiScatter ) {
#else
void computeMultiscattering( const in vec2 fab, const in vec3 specularColor, const in float specularF90, inout vec3 singleScatter, inout vec3 multiScatter ) {
#endif
	#ifdef USE_IRIDESCENCE
		vec3 Fr = mix( specularColor, iridescenceF0, iridescence );
	#else
		vec3 Fr = specularColor;
	#endif
	vec3 FssEss = Fr * fab.x + specularF90 * fab.y;
	float Ess = fab.x + fab.y;
	float Ems = 1.0 - Ess;
	vec3 Favg = Fr + ( 1.0 - Fr ) * 0.047619;	vec3 Fms = FssEss * Favg / ( 1.0 - Ems * Favg );
	singleScatter += FssEss;
	multiScatter += Fms * Ems;
}
#if NUM_RECT_AREA_LIGHTS > 0
	void RE_Direct_RectArea_Physical( const in RectAreaLight rectAreaLight, const in vec3 geometryPosition, const in vec3 geometryNormal, const in vec3 geometryViewDir, const in vec3 geometryClearcoatNormal, const in PhysicalMaterial material, inout ReflectedLight reflectedLight ) {
		vec3 normal = geometryNormal;
		vec3 viewDir = geometryViewDir;
		vec3 position = geometryPosition;
		vec3 lightPos = rectAreaLight.position;
		vec3 halfWidth = rectAreaLight.halfWidth;
		vec3 halfHeight = rectAreaLight.halfHeight;
		vec3 lightColor = rectAreaLight.color;
		float roughness = material.roughness;
		vec3 rectCoords[ 4 ];
		rectCoords[ 0 ] = lightPos + halfWidth - halfHeight;		rectCoords[ 1 ] = lightPos - halfWidth - halfHeight;
		rectCoords[ 2 ] = lightPos - halfWidth + halfHeight;
		rectCoords[ 3 ] = lightPos + halfWidth + halfHeight;
		vec2 uv = LTC_Uv( normal, viewDir, roughness );
		vec4 t1 = texture2D( ltc_1, uv );
		vec4 t2 = texture2D( ltc_2, uv );
		mat3 mInv = mat3(
			vec3( t1.x, 0, t1.y ),
			vec3(    0, 1,    0 ),
			vec3( t1.z, 0, t1.w )
		);
		vec3 fresnel = ( material.specularColorBlended * t2.x + ( material.specularF90 - material.specularColorBlended ) * t2.y );
		reflectedLight.directSpecular += lightColor * fresnel * LTC_Evaluate( normal, viewDir, position, mInv, rectCoords );
		reflectedLight.directDiffuse += lightColor * material.diffuseContribution * LTC_Evaluate( normal, viewDir, position, mat3( 1.0 ), rectCoords );
		#ifdef USE_CLEARCOAT
			vec3 Ncc = geometryClearcoatNormal;
			vec2 uvClearcoat = LTC_Uv( Ncc, viewDir, material.clearcoatRoughness );
			vec4 t1Clearcoat = texture2D( ltc_1, uvClearcoat );
			vec4 t2Clearcoat = texture2D( ltc_2, uvClearcoat );
			mat3 mInvClearcoat = mat3(
				vec3( t1Clearcoat.x, 0, t1Clearcoat.y ),
				vec3(             0, 1,             0 ),
				vec3( t1Clearcoat.z, 0, t1Clearcoat.w )
			);
			vec3 fresnelClearcoat = material.clearcoatF0 * t2Clearcoat.x + ( material.clearcoatF90 - material.clearcoatF0 ) * t2Clearcoat.y;
			clearcoatSpecularDirect += lightColor * fresnelClearcoat * LTC_Evaluate( Ncc, viewDir, position, mInvClearcoat, rectCoords );
		#endif
	}
#endif
void RE_Direct_Physical( const in IncidentLight directLight, const in vec3 geometryPosition, const in vec3 geometryNormal, const in vec3 geometryViewDir, const in vec3 geometryClearcoatNormal, const in PhysicalMaterial material, inout ReflectedLight reflectedLight ) {
	float dotNL = saturate( dot( geometryNormal, directLight.direction ) );
	vec3 irradiance = dotNL * directLight.color;
	#ifdef USE_CLEARCOAT
		float dotNLcc = saturate( dot( geometryClearcoatNormal, directLight.direction ) );
		vec3 ccIrradiance = dotNLcc * directLight.color;
		clearcoatSpecularDirect += ccIrradiance * BRDF_GGX_Clearcoat( directLight.direction, geometryViewDir, geometryClearcoatNormal, material );
	#endif
	#ifdef USE_SHEEN
 
 		sheenSpecularDirect += irradiance * BRDF_Sheen( directLight.direction, geometryViewDir, geometryNormal, material.sheenColor, material.sheenRoughness );
 
 		float sheenAlbedoV = IBLSheenBRDF( geometryNormal, geometryViewDir, material.sheenRoughness );
 		float sheenAlbedoL = IBLSheenBRDF( geometryNormal, directLight.direction, material.sheenRoughness );
 
 		float sheenEnergyComp = 1.0 - max3( material.sheenColor ) * max( sheenAlbedoV, sheenAlbedoL );
 
 		irradiance *= sheenEnergyComp;
 
 	#endif
	vec3 specularBRDF = BRDF_GGX( directLight.direction, geometryViewDir, geometryNormal, material );
	#ifdef USE_RETROREFLECTION
		vec3 retroViewDir = reflect( - geometryViewDir, geometryNormal );
		vec3 retroSpecularBRDF = BRDF_GGX( directLight.direction, retroViewDir, geometryNormal, material );
		specularBRDF = mix( specularBRDF, retroSpecularBRDF, saturate( material.retroreflectivity ) );
	#endif
	reflectedLight.directSpecular += irradiance * specularBRDF * material.multiScatteringCompensation;
	vec3 halfDir = normalize( directLight.direction + geometryViewDir );
	float dotVH = saturate( dot( geometryViewDir, halfDir ) );
	vec3 F = F_Schlick( material.specularColor, material.specularF90, dotVH );
	#ifdef USE_RETROREFLECTION
		vec3 retroHalfDir = normalize( directLight.direction + retroViewDir );
		float dotRetroVH = saturate( dot( retroViewDir, retroHalfDir ) );
		vec3 retroF = F_Schlick( material.specularColor, material.specularF90, dotRetroVH );
		F = mix( F, retroF, saturate( material.retroreflectivity ) );
	#endif
	#ifdef USE_DIFFUSE_ROUGHNESS
		vec3 diffuseBRDF = BRDF_EON( directLight.direction, geometryViewDir, geometryNormal, material.diffuseColor, material.diffuseRoughness ) * ( 1.0 - material.metalness );
	#else
		vec3 diffuseBRDF = BRDF_Lambert( material.diffuseContribution );
	#endif
	reflectedLight.directDiffuse += irradiance * diffuseBRDF * ( 1.0 - F );
}
void RE_IndirectDiffuse_Physical( const in vec3 irradiance, const in vec3 geometryPosition, const in vec3 geometryNormal, const in vec3 geometryViewDir, const in vec3 geometryClearcoatNormal, const in PhysicalMaterial material, inout ReflectedLight reflectedLight ) {
	vec3 singleScattering = vec3( 0.0 );
	vec3 multiScattering = vec3( 0.0 );
	#ifdef USE_IRIDESCENCE
		computeMultiscatteringIridescence( material.dfg, material.specularColor, material.specularF90, material.iridescence, material.iridescenceF0Dielectric, singleScattering, multiScattering );
	#else
		computeMultiscattering( material.dfg, material.specularColor, material.specularF90, singleScattering, multiScattering );
	#endif
	#ifdef USE_DIFFUSE_ROUGHNESS
		float dotNV = saturate( dot( geometryNormal, geometryViewDir ) );
		vec3 diffuseAlbedo = EON_DirectionalAlbedo( material.diffuseColor, material.diffuseRoughness, dotNV ) * ( 1.0 - material.metalness );
		vec3 diffuse = irradiance * RECIPROCAL_PI * diffuseAlbedo * ( 1.0 - singleScattering - multiScattering );
	#else
		vec3 diffuse = irradiance * BRDF_Lambert( material.diffuseContribution ) * ( 1.0 - singleScattering - multiScattering );
	#endif
	#ifdef USE_SHEEN
		float sheenAlbedo = IBLSheenBRDF( geometryNormal, geometryViewDir, material.sheenRoughness );
		sheenSpecularIndirect += irradiance * material.sheenColor * sheenAlbedo * RECIPROCAL_PI;
		float sheenEnergyComp = 1.0 - max3( material.sheenColor ) * sheenAlbedo;
		diffuse *= sheenEnergyComp;
	#endif
	reflectedLight.indirectDiffuse += diffuse;
}
void RE_IndirectSpecular_Physical( const in vec3 radiance, const in vec3 irradiance, const in vec3 clearcoatRadiance, const in vec3 geometryPosition, const in vec3 geometryNormal, const in vec3 geometryViewDir, const in vec3 geometryClearcoatNormal, const in PhysicalMaterial material, inout ReflectedLight reflectedLight) {
	#ifdef USE_CLEARCOAT
		clearcoatSpecularIndirect += clearcoatRadiance * EnvironmentBRDF( geometryClearcoatNormal, geometryViewDir, material.clearcoatF0, material.clearcoatF90, material.clearcoatRoughness );
	#endif
	#ifdef USE_SHEEN
		sheenSpecularIndirect += irradiance * material.sheenColor * IBLSheenBRDF( geometryNormal, geometryViewDir, material.sheenRoughness ) * RECIPROCAL_PI;
 	#endif
	vec3 singleScatteringDielectric = vec3( 0.0 );
	vec3 multiScatteringDielectric = vec3( 0.0 );
	vec3 singleScatteringMetallic = vec3( 0.0 );
	vec3 multiScatteringMetallic = vec3( 0.0 );
	#ifdef USE_IRIDESCENCE
		computeMultiscatteringIridescence( material.dfg, material.specularColor, material.specularF90, material.iridescence, material.iridescenceF0Dielectric, singleScatteringDielectric, multiScatteringDielectric );
		computeMultiscatteringIridescence( material.dfg, material.diffuseColor, material.specularF90, material.iridescence, material.iridescenceF0Metallic, singleScatteringMetallic, multiScatteringMetallic );
	#else
		computeMultiscattering( material.dfg, material.specularColor, material.specularF90, singleScatteringDielectric, multiScatteringDielectric );
		computeMultiscattering( material.dfg, material.diffuseColor, material.specularF90, singleScatteringMetallic, multiScatteringMetallic );
	#endif
	vec3 singleScattering = mix( singleScatteringDielectric, singleScatteringMetallic, material.metalness );
	vec3 multiScattering = mix( multiScatteringDielectric, multiScatteringMetallic, material.metalness );
	vec3 totalScatteringDielectric = singleScatteringDielectric + multiScatteringDielectric;
	#ifdef USE_DIFFUSE_ROUGHNESS
		float dotNV = saturate( dot( geometryNormal, geometryViewDir ) );
		vec3 diffuse = EON_DirectionalAlbedo( material.diffuseColor, material.diffuseRoughness, dotNV ) * ( 1.0 - material.metalness ) * ( 1.0 - totalScatteringDielectric );
	#else
		vec3 diffuse = material.diffuseContribution * ( 1.0 - totalScatteringDielectric );
	#endif
	vec3 cosineWeightedIrradiance = irradiance * RECIPROCAL_PI;
	vec3 indirectSpecular = radiance * singleScattering;
	indirectSpecular += multiScattering * cosineWeightedIrradiance;
	vec3 indirectDiffuse = diffuse * cosineWeightedIrradiance;
	#ifdef USE_SHEEN
		float sheenAlbedo = IBLSheenBRDF( geometryNormal, geometryViewDir, material.sheenRoughness );
		float sheenEnergyComp = 1.0 - max3( material.sheenColor ) * sheenAlbedo;
		indirectSpecular *= sheenEnergyComp;
		indirectDiffuse *= sheenEnergyComp;
	#endif
	reflectedLight.indirectSpecular += indirectSpecular;
	reflectedLight.indirectDiffuse += indirectDiffuse;
}
#define RE_Direct				RE_Direct_Physical
#define RE_Direct_RectArea		RE_Direct_RectArea_Physical
#define RE_IndirectDiffuse		RE_IndirectDiffuse_Physical
#define RE_IndirectSpecular		RE_IndirectSpecular_Physical
float computeSpecularOcclusion( const in float dotNV, const in float ambientOcclusion, const in float roughness ) {
	return saturate( pow( dotNV + ambientOcclusion, exp2( - 16.0 * roughness - 1.0 ) ) - 1.0 + ambientOcclusion );
}`,xv=`
vec3 geometryPosition = - vViewPosition;
vec3 geometryNormal = normal;
vec3 geometryViewDir = ( isOrthographic ) ? vec3( 0, 0, 1 ) : normalize( vViewPosition );
vec3 geometryClearcoatNormal = vec3( 0.0 );
#ifdef USE_CLEARCOAT
	geometryClearcoatNormal = clearcoatNormal;
#endif
#ifdef USE_IRIDESCENCE
	float dotNVi = saturate( dot( normal, geometryViewDir ) );
	if ( material.iridescenceThickness == 0.0 ) {
		material.iridescence = 0.0;
	} else {
		material.iridescence = saturate( material.iridescence );
	}
	if ( material.iridescence > 0.0 ) {
		vec3 iridescenceFresnelDielectric = evalIridescence( 1.0, material.iridescenceIOR, dotNVi, material.iridescenceThickness, material.specularColor );
		vec3 iridescenceFresnelMetallic = evalIridescence( 1.0, material.iridescenceIOR, dotNVi, material.iridescenceThickness, material.diffuseColor );
		material.iridescenceFresnel = mix( iridescenceFresnelDielectric, iridescenceFresnelMetallic, material.metalness );
		material.iridescenceF0Dielectric = Schlick_to_F0( iridescenceFresnelDielectric, 1.0, dotNVi );
		material.iridescenceF0Metallic = Schlick_to_F0( iridescenceFresnelMetallic, 1.0, dotNVi );
	}
#endif
#ifdef STANDARD
	float dotNVms = saturate( dot( geometryNormal, geometryViewDir ) );
	material.dfg = texture2D( dfgLUT, vec2( material.roughness, dotNVms ) ).rg;
	#if ( NUM_SUN_LIGHTS > 0 || NUM_DIR_LIGHTS > 0 || NUM_POINT_LIGHTS > 0 || NUM_SPOT_LIGHTS > 0 )
		float EssMs = material.dfg.x + material.dfg.y;
		material.multiScatteringCompensation = 1.0 + material.specularColorBlended * ( 1.0 / EssMs - 1.0 );
	#endif
#endif
IncidentLight directLight;
#if ( NUM_POINT_LIGHTS > 0 ) && defined( RE_Direct )
	PointLight pointLight;
	#if defined( USE_SHADOWMAP ) && NUM_POINT_LIGHT_SHADOWS > 0
	PointLightShadow pointLightShadow;
	#endif
	#pragma unroll_loop_start
	for ( int i = 0; i < NUM_POINT_LIGHTS; i ++ ) {
		pointLight = pointLights[ i ];
		getPointLightInfo( pointLight, geometryPosition, directLight );
		#if defined( USE_SHADOWMAP ) && ( UNROLLED_LOOP_INDEX < NUM_POINT_LIGHT_SHADOWS ) && ( defined( SHADOWMAP_TYPE_PCF ) || defined( SHADOWMAP_TYPE_BASIC ) )
		pointLightShadow = pointLightShadows[ i ];
		directLight.color *= ( directLight.visible && receiveShadow ) ? getPointShadow( pointShadowMap[ i ], pointLightShadow.shadowMapSize, pointLightShadow.shadowIntensity, pointLightShadow.shadowBias, pointLightShadow.shadowRadius, vPointShadowCoord[ i ], pointLightShadow.shadowCameraNear, pointLightShadow.shadowCameraFar ) : 1.0;
		#endif
		RE_Direct( directLight, geometryPosition, geometryNormal, geometryViewDir, geometryClearcoatNormal, material, reflectedLight );
	}
	#pragma unroll_loop_end
#endif
#if ( NUM_SPOT_LIGHTS > 0 ) && defined( RE_Direct )
	SpotLight spotLight;
	vec4 spotColor;
	vec3 spotLightCoord;
	bool inSpotLightMap;
	#if defined( USE_SHADOWMAP ) && NUM_SPOT_LIGHT_SHADOWS > 0
	SpotLightShadow spotLightShadow;
	#endif
	#pragma unroll_loop_start
	for ( int i = 0; i < NUM_SPOT_LIGHTS; i ++ ) {
		spotLight = spotLights[ i ];
		getSpotLightInfo( spotLight, geometryPosition, directLight );
		#if ( UNROLLED_LOOP_INDEX < NUM_SPOT_LIGHT_SHADOWS_WITH_MAPS )
		#define SPOT_LIGHT_MAP_INDEX UNROLLED_LOOP_INDEX
		#elif ( UNROLLED_LOOP_INDEX < NUM_SPOT_LIGHT_SHADOWS )
		#define SPOT_LIGHT_MAP_INDEX NUM_SPOT_LIGHT_MAPS
		#else
		#define SPOT_LIGHT_MAP_INDEX ( UNROLLED_LOOP_INDEX - NUM_SPOT_LIGHT_SHADOWS + NUM_SPOT_LIGHT_SHADOWS_WITH_MAPS )
		#endif
		#if ( SPOT_LIGHT_MAP_INDEX < NUM_SPOT_LIGHT_MAPS )
			spotLightCoord = vSpotLightCoord[ i ].xyz / vSpotLightCoord[ i ].w;
			inSpotLightMap = all( lessThan( abs( spotLightCoord * 2. - 1. ), vec3( 1.0 ) ) );
			spotColor = texture2D( spotLightMap[ SPOT_LIGHT_MAP_INDEX ], spotLightCoord.xy );
			directLight.color = inSpotLightMap ? directLight.color * spotColor.rgb : directLight.color;
		#endif
		#undef SPOT_LIGHT_MAP_INDEX
		#if defined( USE_SHADOWMAP ) && ( UNROLLED_LOOP_INDEX < NUM_SPOT_LIGHT_SHADOWS )
		spotLightShadow = spotLightShadows[ i ];
		directLight.color *= ( directLight.visible && receiveShadow ) ? getShadow( spotShadowMap[ i ], spotLightShadow.shadowMapSize, spotLightShadow.shadowIntensity, spotLightShadow.shadowBias, spotLightShadow.shadowRadius, vSpotLightCoord[ i ] ) : 1.0;
		#endif
		RE_Direct( directLight, geometryPosition, geometryNormal, geometryViewDir, geometryClearcoatNormal, material, reflectedLight );
	}
	#pragma unroll_loop_end
#endif
#if ( NUM_SUN_LIGHTS > 0 ) && defined( RE_Direct )
	SunLight sunLight;
	#if defined( USE_SHADOWMAP ) && NUM_SUN_LIGHT_SHADOWS > 0
	SunLightShadow sunLightShadow;
	#endif
	#pragma unroll_loop_start
	for ( int i = 0; i < NUM_SUN_LIGHTS; i ++ ) {
		sunLight = sunLights[ i ];
		getSunLightInfo( sunLight, directLight );
		#if defined( USE_SHADOWMAP ) && ( UNROLLED_LOOP_INDEX < NUM_SUN_LIGHT_SHADOWS )
		sunLightShadow = sunLightShadows[ i ];
		directLight.color *= ( directLight.visible && receiveShadow ) ? getSunShadow( sunShadowMap[ i ], sunLightShadow, UNROLLED_LOOP_INDEX ) : 1.0;
		#endif
		RE_Direct( directLight, geometryPosition, geometryNormal, geometryViewDir, geometryClearcoatNormal, material, reflectedLight );
	}
	#pragma unroll_loop_end
#endif
#if ( NUM_DIR_LIGHTS > 0 ) && defined( RE_Direct )
	DirectionalLight directionalLight;
	#if defined( USE_SHADOWMAP ) && NUM_DIR_LIGHT_SHADOWS > 0
	DirectionalLightShadow directionalLightShadow;
	#endif
	#pragma unroll_loop_start
	for ( int i = 0; i < NUM_DIR_LIGHTS; i ++ ) {
		directionalLight = directionalLights[ i ];
		getDirectionalLightInfo( directionalLight, directLight );
		#if defined( USE_SHADOWMAP ) && ( UNROLLED_LOOP_INDEX < NUM_DIR_LIGHT_SHADOWS )
		directionalLightShadow = directionalLightShadows[ i ];
		directLight.color *= ( directLight.visible && receiveShadow ) ? getShadow( directionalShadowMap[ i ], directionalLightShadow.shadowMapSize, directionalLightShadow.shadowIntensity, directionalLightShadow.shadowBias, directionalLightShadow.shadowRadius, vDirectionalShadowCoord[ i ] ) : 1.0;
		#endif
		RE_Direct( directLight, geometryPosition, geometryNormal, geometryViewDir, geometryClearcoatNormal, material, reflectedLight );
	}
	#pragma unroll_loop_end
#endif
#if ( NUM_RECT_AREA_LIGHTS > 0 ) && defined( RE_Direct_RectArea )
	RectAreaLight rectAreaLight;
	#pragma unroll_loop_start
	for ( int i = 0; i < NUM_RECT_AREA_LIGHTS; i ++ ) {
		rectAreaLight = rectAreaLights[ i ];
		RE_Direct_RectArea( rectAreaLight, geometryPosition, geometryNormal, geometryViewDir, geometryClearcoatNormal, material, reflectedLight );
	}
	#pragma unroll_loop_end
#endif
#if defined( RE_IndirectDiffuse )
	vec3 iblIrradiance = vec3( 0.0 );
	vec3 irradiance = getAmbientLightIrradiance( ambientLightColor );
	#if defined( USE_LIGHT_PROBES )
		irradiance += getLightProbeIrradiance( lightProbe, geometryNormal );
	#endif
	#if ( NUM_HEMI_LIGHTS > 0 )
		#pragma unroll_loop_start
		for ( int i = 0; i < NUM_HEMI_LIGHTS; i ++ ) {
			irradiance += getHemisphereLightIrradiance( hemisphereLights[ i ], geometryNormal );
		}
		#pragma unroll_loop_end
	#endif
	#if NUM_LIGHT_PROBE_GRIDS > 0
		vec3 probeWorldPos = ( ( vec4( geometryPosition, 1.0 ) - viewMatrix[ 3 ] ) * viewMatrix ).xyz;
		vec3 probeWorldNormal = transformNormalByInverseViewMatrix( geometryNormal, viewMatrix );
		int probeGrid = - 1;
		#pragma unroll_loop_start
		for ( int i = 0; i < NUM_LIGHT_PROBE_GRIDS; i ++ ) {
			if ( isInsideLightProbeGrid( probeWorldPos, probeWorldNormal, probesMin[ i ], probesMax[ i ], probesResolution[ i ] ) ) probeGrid = UNROLLED_LOOP_INDEX;
		}
		#pragma unroll_loop_end
		#pragma unroll_loop_start
		for ( int i = 0; i < NUM_LIGHT_PROBE_GRIDS; i ++ ) {
			if ( probeGrid == UNROLLED_LOOP_INDEX ) irradiance += getLightProbeGridIrradiance( probesSH[ i ], probesMin[ i ], probesMax[ i ], probesResolution[ i ], probeWorldPos, probeWorldNormal );
		}
		#pragma unroll_loop_end
	#endif
#endif
#if defined( RE_IndirectSpecular )
	vec3 radiance = vec3( 0.0 );
	vec3 clearcoatRadiance = vec3( 0.0 );
#endif`,yv=`#if defined( RE_IndirectDiffuse )
	#ifdef USE_LIGHTMAP
		vec4 lightMapTexel = texture2D( lightMap, vLightMapUv );
		vec3 lightMapIrradiance = lightMapTexel.rgb * lightMapIntensity;
		irradiance += lightMapIrradiance;
	#endif
	#if defined( USE_ENVMAP ) && defined( ENVMAP_TYPE_PMREM )
		#if defined( STANDARD ) || defined( LAMBERT ) || defined( PHONG )
			iblIrradiance += getIBLIrradiance( geometryNormal );
		#endif
	#endif
#endif
#if defined( USE_ENVMAP ) && defined( RE_IndirectSpecular )
	#ifdef USE_ANISOTROPY
		vec3 iblRadiance = getIBLAnisotropyRadiance( geometryViewDir, geometryNormal, material.roughness, material.anisotropyB, material.anisotropy );
	#else
		vec3 iblRadiance = getIBLRadiance( geometryViewDir, geometryNormal, material.roughness );
	#endif
	#ifdef USE_RETROREFLECTION
		#ifdef USE_ANISOTROPY
			vec3 retroIBLRadiance = getIBLAnisotropyRetroRadiance( geometryViewDir, geometryNormal, material.roughness, material.anisotropyB, material.anisotropy );
		#else
			vec3 retroIBLRadiance = getIBLRetroRadiance( geometryViewDir, geometryNormal, material.roughness );
		#endif
		iblRadiance = mix( iblRadiance, retroIBLRadiance, saturate( material.retroreflectivity ) );
	#endif
	radiance += iblRadiance;
	#ifdef USE_CLEARCOAT
		clearcoatRadiance += getIBLRadiance( geometryViewDir, geometryClearcoatNormal, material.clearcoatRoughness );
	#endif
#endif`,vv=`#if defined( RE_IndirectDiffuse )
	#if defined( LAMBERT ) || defined( PHONG )
		irradiance += iblIrradiance;
	#endif
	RE_IndirectDiffuse( irradiance, geometryPosition, geometryNormal, geometryViewDir, geometryClearcoatNormal, material, reflectedLight );
#endif
#if defined( RE_IndirectSpecular )
	RE_IndirectSpecular( radiance, iblIrradiance, clearcoatRadiance, geometryPosition, geometryNormal, geometryViewDir, geometryClearcoatNormal, material, reflectedLight );
#endif`,Sv=`#if NUM_LIGHT_PROBE_GRIDS > 0
uniform highp sampler3D probesSH[ NUM_LIGHT_PROBE_GRIDS ];
uniform vec3 probesMin[ NUM_LIGHT_PROBE_GRIDS ];
uniform vec3 probesMax[ NUM_LIGHT_PROBE_GRIDS ];
uniform vec3 probesResolution[ NUM_LIGHT_PROBE_GRIDS ];
bool isInsideLightProbeGrid( vec3 worldPos, vec3 worldNormal, vec3 probesMin, vec3 probesMax, vec3 probesResolution ) {
	vec3 spacing = ( probesMax - probesMin ) / probesResolution;
	vec3 samplePos = worldPos + worldNormal * spacing * 0.5;
	vec3 margin = spacing * 0.01;
	return all( greaterThanEqual( samplePos, probesMin - margin ) ) && all( lessThanEqual( samplePos, probesMax + margin ) );
}
vec3 getLightProbeGridIrradiance( highp sampler3D probesSH, vec3 probesMin, vec3 probesMax, vec3 probesResolution, vec3 worldPos, vec3 worldNormal ) {
	vec3 res = probesResolution;
	vec3 gridRange = probesMax - probesMin;
	vec3 probeSpacing = gridRange / res;
	vec3 samplePos = worldPos + worldNormal * probeSpacing * 0.5;
	vec3 uvw = clamp( ( samplePos - probesMin ) / gridRange, 0.5 / res, 1.0 - 0.5 / res );
	float nz          = res.z;
	float paddedSlices = nz + 2.0;
	float atlasDepth  = 7.0 * paddedSlices;
	float uvZBase     = uvw.z * nz + 1.0;
	vec4 s0 = texture( probesSH, vec3( uvw.xy, ( uvZBase                       ) / atlasDepth ) );
	vec4 s1 = texture( probesSH, vec3( uvw.xy, ( uvZBase +       paddedSlices   ) / atlasDepth ) );
	vec4 s2 = texture( probesSH, vec3( uvw.xy, ( uvZBase + 2.0 * paddedSlices   ) / atlasDepth ) );
	vec4 s3 = texture( probesSH, vec3( uvw.xy, ( uvZBase + 3.0 * paddedSlices   ) / atlasDepth ) );
	vec4 s4 = texture( probesSH, vec3( uvw.xy, ( uvZBase + 4.0 * paddedSlices   ) / atlasDepth ) );
	vec4 s5 = texture( probesSH, vec3( uvw.xy, ( uvZBase + 5.0 * paddedSlices   ) / atlasDepth ) );
	vec4 s6 = texture( probesSH, vec3( uvw.xy, ( uvZBase + 6.0 * paddedSlices   ) / atlasDepth ) );
	vec3 c0 = s0.xyz;
	vec3 c1 = vec3( s0.w, s1.xy );
	vec3 c2 = vec3( s1.zw, s2.x );
	vec3 c3 = s2.yzw;
	vec3 c4 = s3.xyz;
	vec3 c5 = vec3( s3.w, s4.xy );
	vec3 c6 = vec3( s4.zw, s5.x );
	vec3 c7 = s5.yzw;
	vec3 c8 = s6.xyz;
	float x = worldNormal.x, y = worldNormal.y, z = worldNormal.z;
	vec3 result = c0 * 0.886227;
	result += c1 * 2.0 * 0.511664 * y;
	result += c2 * 2.0 * 0.511664 * z;
	result += c3 * 2.0 * 0.511664 * x;
	result += c4 * 2.0 * 0.429043 * x * y;
	result += c5 * 2.0 * 0.429043 * y * z;
	result += c6 * ( 0.743125 * z * z - 0.247708 );
	result += c7 * 2.0 * 0.429043 * x * z;
	result += c8 * 0.429043 * ( x * x - y * y );
	return max( result, vec3( 0.0 ) );
}
#endif`,Mv=`#if defined( USE_LOGARITHMIC_DEPTH_BUFFER )
	gl_FragDepth = vIsPerspective == 0.0 ? gl_FragCoord.z : log2( vFragDepth ) * logDepthBufFC * 0.5;
#endif`,bv=`#if defined( USE_LOGARITHMIC_DEPTH_BUFFER )
	uniform float logDepthBufFC;
	varying float vFragDepth;
	varying float vIsPerspective;
#endif`,wv=`#ifdef USE_LOGARITHMIC_DEPTH_BUFFER
	varying float vFragDepth;
	varying float vIsPerspective;
#endif`,Ev=`#ifdef USE_LOGARITHMIC_DEPTH_BUFFER
	vFragDepth = 1.0 + gl_Position.w;
	vIsPerspective = float( isPerspectiveMatrix( projectionMatrix ) );
#endif`,Tv=`#ifdef USE_MAP
	vec4 sampledDiffuseColor = texture2D( map, vMapUv );
	#ifdef DECODE_VIDEO_TEXTURE
		sampledDiffuseColor = sRGBTransferEOTF( sampledDiffuseColor );
	#endif
	diffuseColor *= sampledDiffuseColor;
#endif`,Av=`#ifdef USE_MAP
	uniform sampler2D map;
#endif`,Rv=`#if defined( USE_MAP ) || defined( USE_ALPHAMAP )
	#if defined( USE_POINTS_UV )
		vec2 uv = vUv;
	#else
		vec2 uv = ( uvTransform * vec3( gl_PointCoord.x, 1.0 - gl_PointCoord.y, 1 ) ).xy;
	#endif
#endif
#ifdef USE_MAP
	diffuseColor *= texture2D( map, uv );
#endif
#ifdef USE_ALPHAMAP
	diffuseColor.a *= texture2D( alphaMap, uv ).g;
#endif`,Cv=`#if defined( USE_POINTS_UV )
	varying vec2 vUv;
#else
	#if defined( USE_MAP ) || defined( USE_ALPHAMAP )
		uniform mat3 uvTransform;
	#endif
#endif
#ifdef USE_MAP
	uniform sampler2D map;
#endif
#ifdef USE_ALPHAMAP
	uniform sampler2D alphaMap;
#endif`,Pv=`float metalnessFactor = metalness;
#ifdef USE_METALNESSMAP
	vec4 texelMetalness = texture2D( metalnessMap, vMetalnessMapUv );
	metalnessFactor *= texelMetalness.b;
#endif`,Iv=`#ifdef USE_METALNESSMAP
	uniform sampler2D metalnessMap;
#endif`,Lv=`#ifdef USE_INSTANCING_MORPH
	float morphTargetInfluences[ MORPHTARGETS_COUNT ];
	float morphTargetBaseInfluence = texelFetch( morphTexture, ivec2( 0, gl_InstanceID ), 0 ).r;
	for ( int i = 0; i < MORPHTARGETS_COUNT; i ++ ) {
		morphTargetInfluences[i] =  texelFetch( morphTexture, ivec2( i + 1, gl_InstanceID ), 0 ).r;
	}
#endif`,Dv=`#if defined( USE_MORPHCOLORS )
	#if defined( USE_COLOR_ALPHA )
		vColor *= morphTargetBaseInfluence;
	#elif defined( USE_COLOR )
		vColor.rgb *= morphTargetBaseInfluence;
	#endif
	for ( int i = 0; i < MORPHTARGETS_COUNT; i ++ ) {
		#if defined( USE_COLOR_ALPHA )
			if ( morphTargetInfluences[ i ] != 0.0 ) vColor += getMorph( gl_VertexID, i, 2 ) * morphTargetInfluences[ i ];
		#elif defined( USE_COLOR )
			if ( morphTargetInfluences[ i ] != 0.0 ) vColor.rgb += getMorph( gl_VertexID, i, 2 ).rgb * morphTargetInfluences[ i ];
		#endif
	}
#endif`,Nv=`#ifdef USE_MORPHNORMALS
	objectNormal *= morphTargetBaseInfluence;
	for ( int i = 0; i < MORPHTARGETS_COUNT; i ++ ) {
		if ( morphTargetInfluences[ i ] != 0.0 ) objectNormal += getMorph( gl_VertexID, i, 1 ).xyz * morphTargetInfluences[ i ];
	}
#endif`,Ov=`#ifdef USE_MORPHTARGETS
	#ifndef USE_INSTANCING_MORPH
		uniform float morphTargetBaseInfluence;
		uniform float morphTargetInfluences[ MORPHTARGETS_COUNT ];
	#endif
	uniform sampler2DArray morphTargetsTexture;
	uniform ivec2 morphTargetsTextureSize;
	vec4 getMorph( const in int vertexIndex, const in int morphTargetIndex, const in int offset ) {
		int texelIndex = vertexIndex * MORPHTARGETS_TEXTURE_STRIDE + offset;
		int y = texelIndex / morphTargetsTextureSize.x;
		int x = texelIndex - y * morphTargetsTextureSize.x;
		ivec3 morphUV = ivec3( x, y, morphTargetIndex );
		return texelFetch( morphTargetsTexture, morphUV, 0 );
	}
#endif`,Uv=`#ifdef USE_MORPHTARGETS
	transformed *= morphTargetBaseInfluence;
	for ( int i = 0; i < MORPHTARGETS_COUNT; i ++ ) {
		if ( morphTargetInfluences[ i ] != 0.0 ) transformed += getMorph( gl_VertexID, i, 0 ).xyz * morphTargetInfluences[ i ];
	}
#endif`,Fv=`float faceDirection = gl_FrontFacing ? 1.0 : - 1.0;
#ifdef FLAT_SHADED
	vec3 fdx = dFdx( vViewPosition );
	vec3 fdy = dFdy( vViewPosition );
	vec3 normal = normalize( cross( fdx, fdy ) );
#else
	vec3 normal = normalize( vNormal );
	#ifdef DOUBLE_SIDED
		normal *= faceDirection;
	#endif
#endif
#if defined( USE_NORMALMAP_TANGENTSPACE ) || defined( USE_CLEARCOAT_NORMALMAP ) || defined( USE_ANISOTROPY )
	#ifdef USE_TANGENT
		mat3 tbn = mat3( normalize( vTangent ), normalize( vBitangent ), normal );
	#else
		mat3 tbn = getTangentFrame( - vViewPosition, normal,
		#if defined( USE_NORMALMAP )
			vNormalMapUv
		#elif defined( USE_CLEARCOAT_NORMALMAP )
			vClearcoatNormalMapUv
		#else
			vUv
		#endif
		);
	#endif
	#ifdef DOUBLE_SIDED
		tbn[0] *= faceDirection;
		tbn[1] *= faceDirection;
	#endif
#endif
#ifdef USE_CLEARCOAT_NORMALMAP
	#ifdef USE_TANGENT
		mat3 tbn2 = mat3( normalize( vTangent ), normalize( vBitangent ), normal );
	#else
		mat3 tbn2 = getTangentFrame( - vViewPosition, normal, vClearcoatNormalMapUv );
	#endif
	#ifdef DOUBLE_SIDED
		tbn2[0] *= faceDirection;
		tbn2[1] *= faceDirection;
	#endif
#endif
vec3 nonPerturbedNormal = normal;`,kv=`#ifdef USE_NORMALMAP_OBJECTSPACE
	normal = texture2D( normalMap, vNormalMapUv ).xyz * 2.0 - 1.0;
	#ifdef FLIP_SIDED
		normal = - normal;
	#endif
	#ifdef DOUBLE_SIDED
		normal = normal * faceDirection;
	#endif
	normal = normalize( normalMatrix * normal );
#elif defined( USE_NORMALMAP_TANGENTSPACE )
	vec3 mapN = texture2D( normalMap, vNormalMapUv ).xyz * 2.0 - 1.0;
	#if defined( USE_PACKED_NORMALMAP )
		mapN = vec3( mapN.xy, sqrt( saturate( 1.0 - dot( mapN.xy, mapN.xy ) ) ) );
	#endif
	mapN.xy *= normalScale;
	normal = normalize( tbn * mapN );
#elif defined( USE_BUMPMAP )
	normal = perturbNormalArb( - vViewPosition, normal, dHdxy_fwd(), faceDirection );
#endif`,Bv=`#ifndef FLAT_SHADED
	varying vec3 vNormal;
	#ifdef USE_TANGENT
		varying vec3 vTangent;
		varying vec3 vBitangent;
	#endif
#endif`,zv=`#ifndef FLAT_SHADED
	varying vec3 vNormal;
	#ifdef USE_TANGENT
		varying vec3 vTangent;
		varying vec3 vBitangent;
	#endif
#endif`,Hv=`#ifndef FLAT_SHADED
	vNormal = normalize( transformedNormal );
	#ifdef USE_TANGENT
		vTangent = normalize( transformedTangent );
		vBitangent = normalize( cross( vNormal, vTangent ) * tangent.w );
		#ifdef FLIP_SIDED
			vBitangent = - vBitangent;
		#endif
	#endif
#endif`,Vv=`#ifdef USE_NORMALMAP
	uniform sampler2D normalMap;
	uniform vec2 normalScale;
#endif
#ifdef USE_NORMALMAP_OBJECTSPACE
	uniform mat3 normalMatrix;
#endif
#if ! defined ( USE_TANGENT ) && ( defined ( USE_NORMALMAP_TANGENTSPACE ) || defined ( USE_CLEARCOAT_NORMALMAP ) || defined( USE_ANISOTROPY ) )
	mat3 getTangentFrame( vec3 eye_pos, vec3 surf_norm, vec2 uv ) {
		vec3 q0 = dFdx( eye_pos.xyz );
		vec3 q1 = dFdy( eye_pos.xyz );
		vec2 st0 = dFdx( uv.st );
		vec2 st1 = dFdy( uv.st );
		vec3 N = surf_norm;
		vec3 q1perp = cross( q1, N );
		vec3 q0perp = cross( N, q0 );
		vec3 T = q1perp * st0.x + q0perp * st1.x;
		vec3 B = q1perp * st0.y + q0perp * st1.y;
		float det = max( dot( T, T ), dot( B, B ) );
		float scale = ( det == 0.0 ) ? 0.0 : inversesqrt( det );
		return mat3( T * scale, B * scale, N );
	}
#endif`,Gv=`#ifdef USE_CLEARCOAT
	vec3 clearcoatNormal = nonPerturbedNormal;
#endif`,Wv=`#ifdef USE_CLEARCOAT_NORMALMAP
	vec3 clearcoatMapN = texture2D( clearcoatNormalMap, vClearcoatNormalMapUv ).xyz * 2.0 - 1.0;
	clearcoatMapN.xy *= clearcoatNormalScale;
	clearcoatNormal = normalize( tbn2 * clearcoatMapN );
#endif`,Xv=`#ifdef USE_CLEARCOATMAP
	uniform sampler2D clearcoatMap;
#endif
#ifdef USE_CLEARCOAT_NORMALMAP
	uniform sampler2D clearcoatNormalMap;
	uniform vec2 clearcoatNormalScale;
#endif
#ifdef USE_CLEARCOAT_ROUGHNESSMAP
	uniform sampler2D clearcoatRoughnessMap;
#endif`,qv=`#ifdef USE_IRIDESCENCEMAP
	uniform sampler2D iridescenceMap;
#endif
#ifdef USE_IRIDESCENCE_THICKNESSMAP
	uniform sampler2D iridescenceThicknessMap;
#endif`,$v=`#ifdef OPAQUE
diffuseColor.a = 1.0;
#endif
#ifdef USE_TRANSMISSION
diffuseColor.a *= material.transmissionAlpha;
#endif
gl_FragColor = vec4( outgoingLight, diffuseColor.a );`,Yv=`vec3 packNormalToRGB( const in vec3 normal ) {
	return normalize( normal ) * 0.5 + 0.5;
}
vec3 unpackRGBToNormal( const in vec3 rgb ) {
	return 2.0 * rgb.xyz - 1.0;
}
const float PackUpscale = 256. / 255.;const float UnpackDownscale = 255. / 256.;const float ShiftRight8 = 1. / 256.;
const float Inv255 = 1. / 255.;
const vec4 PackFactors = vec4( 1.0, 256.0, 256.0 * 256.0, 256.0 * 256.0 * 256.0 );
const vec2 UnpackFactors2 = vec2( UnpackDownscale, 1.0 / PackFactors.g );
const vec3 UnpackFactors3 = vec3( UnpackDownscale / PackFactors.rg, 1.0 / PackFactors.b );
const vec4 UnpackFactors4 = vec4( UnpackDownscale / PackFactors.rgb, 1.0 / PackFactors.a );
vec4 packDepthToRGBA( const in float v ) {
	if( v <= 0.0 )
		return vec4( 0., 0., 0., 0. );
	if( v >= 1.0 )
		return vec4( 1., 1., 1., 1. );
	float vuf;
	float af = modf( v * PackFactors.a, vuf );
	float bf = modf( vuf * ShiftRight8, vuf );
	float gf = modf( vuf * ShiftRight8, vuf );
	return vec4( vuf * Inv255, gf * PackUpscale, bf * PackUpscale, af );
}
vec3 packDepthToRGB( const in float v ) {
	if( v <= 0.0 )
		return vec3( 0., 0., 0. );
	if( v >= 1.0 )
		return vec3( 1., 1., 1. );
	float vuf;
	float bf = modf( v * PackFactors.b, vuf );
	float gf = modf( vuf * ShiftRight8, vuf );
	return vec3( vuf * Inv255, gf * PackUpscale, bf );
}
vec2 packDepthToRG( const in float v ) {
	if( v <= 0.0 )
		return vec2( 0., 0. );
	if( v >= 1.0 )
		return vec2( 1., 1. );
	float vuf;
	float gf = modf( v * 256., vuf );
	return vec2( vuf * Inv255, gf );
}
float unpackRGBAToDepth( const in vec4 v ) {
	return dot( v, UnpackFactors4 );
}
float unpackRGBToDepth( const in vec3 v ) {
	return dot( v, UnpackFactors3 );
}
float unpackRGToDepth( const in vec2 v ) {
	return v.r * UnpackFactors2.r + v.g * UnpackFactors2.g;
}
vec4 pack2HalfToRGBA( const in vec2 v ) {
	vec4 r = vec4( v.x, fract( v.x * 255.0 ), v.y, fract( v.y * 255.0 ) );
	return vec4( r.x - r.y / 255.0, r.y, r.z - r.w / 255.0, r.w );
}
vec2 unpackRGBATo2Half( const in vec4 v ) {
	return vec2( v.x + ( v.y / 255.0 ), v.z + ( v.w / 255.0 ) );
}
float viewZToOrthographicDepth( const in float viewZ, const in float near, const in float far ) {
	return ( viewZ + near ) / ( near - far );
}
float orthographicDepthToViewZ( const in float depth, const in float near, const in float far ) {
	#ifdef USE_REVERSED_DEPTH_BUFFER
	
		return depth * ( far - near ) - far;
	#else
		return depth * ( near - far ) - near;
	#endif
}
float viewZToPerspectiveDepth( const in float viewZ, const in float near, const in float far ) {
	return ( ( near + viewZ ) * far ) / ( ( far - near ) * viewZ );
}
float perspectiveDepthToViewZ( const in float depth, const in float near, const in float far ) {
	
	#ifdef USE_REVERSED_DEPTH_BUFFER
		return ( near * far ) / ( ( near - far ) * depth - near );
	#else
		return ( near * far ) / ( ( far - near ) * depth - far );
	#endif
}`,Zv=`#ifdef PREMULTIPLIED_ALPHA
	gl_FragColor.rgb *= gl_FragColor.a;
#endif`,Kv=`vec4 mvPosition = vec4( transformed, 1.0 );
#ifdef USE_BATCHING
	mvPosition = batchingMatrix * mvPosition;
#endif
#ifdef USE_INSTANCING
	mvPosition = instanceMatrix * mvPosition;
#endif
mvPosition = modelViewMatrix * mvPosition;
gl_Position = projectionMatrix * mvPosition;`,Jv=`#ifdef DITHERING
	gl_FragColor.rgb = dithering( gl_FragColor.rgb );
#endif`,jv=`#ifdef DITHERING
	vec3 dithering( vec3 color ) {
		float grid_position = rand( gl_FragCoord.xy );
		vec3 dither_shift_RGB = vec3( 0.25 / 255.0, -0.25 / 255.0, 0.25 / 255.0 );
		dither_shift_RGB = mix( 2.0 * dither_shift_RGB, -2.0 * dither_shift_RGB, grid_position );
		return color + dither_shift_RGB;
	}
#endif`,Qv=`float roughnessFactor = roughness;
#ifdef USE_ROUGHNESSMAP
	vec4 texelRoughness = texture2D( roughnessMap, vRoughnessMapUv );
	roughnessFactor *= texelRoughness.g;
#endif`,tS=`#ifdef USE_ROUGHNESSMAP
	uniform sampler2D roughnessMap;
#endif`,eS=`#if NUM_SPOT_LIGHT_COORDS > 0
	varying vec4 vSpotLightCoord[ NUM_SPOT_LIGHT_COORDS ];
#endif
#if NUM_SPOT_LIGHT_MAPS > 0
	uniform sampler2D spotLightMap[ NUM_SPOT_LIGHT_MAPS ];
#endif
#ifdef USE_SHADOWMAP
	#if NUM_SUN_LIGHT_SHADOWS > 0
		#define SUN_LIGHT_CASCADES 2
		#if defined( SHADOWMAP_TYPE_PCF )
			uniform sampler2DShadow sunShadowMap[ NUM_SUN_LIGHT_SHADOWS ];
		#else
			uniform sampler2D sunShadowMap[ NUM_SUN_LIGHT_SHADOWS ];
		#endif
		uniform mat4 sunShadowMatrix[ NUM_SUN_LIGHT_SHADOWS * SUN_LIGHT_CASCADES ];
		uniform vec4 sunShadowCascade[ NUM_SUN_LIGHT_SHADOWS * SUN_LIGHT_CASCADES ];
		varying vec4 vSunShadowWorldPosition;
		varying vec3 vSunShadowWorldNormal;
		struct SunLightShadow {
			float shadowIntensity;
			float shadowBias;
			float shadowNormalBias;
			float shadowRadius;
			vec2 shadowMapSize;
		};
		uniform SunLightShadow sunLightShadows[ NUM_SUN_LIGHT_SHADOWS ];
	#endif
	#if NUM_DIR_LIGHT_SHADOWS > 0
		#if defined( SHADOWMAP_TYPE_PCF )
			uniform sampler2DShadow directionalShadowMap[ NUM_DIR_LIGHT_SHADOWS ];
		#else
			uniform sampler2D directionalShadowMap[ NUM_DIR_LIGHT_SHADOWS ];
		#endif
		varying vec4 vDirectionalShadowCoord[ NUM_DIR_LIGHT_SHADOWS ];
		struct DirectionalLightShadow {
			float shadowIntensity;
			float shadowBias;
			float shadowNormalBias;
			float shadowRadius;
			vec2 shadowMapSize;
		};
		uniform DirectionalLightShadow directionalLightShadows[ NUM_DIR_LIGHT_SHADOWS ];
	#endif
	#if NUM_SPOT_LIGHT_SHADOWS > 0
		#if defined( SHADOWMAP_TYPE_PCF )
			uniform sampler2DShadow spotShadowMap[ NUM_SPOT_LIGHT_SHADOWS ];
		#else
			uniform sampler2D spotShadowMap[ NUM_SPOT_LIGHT_SHADOWS ];
		#endif
		struct SpotLightShadow {
			float shadowIntensity;
			float shadowBias;
			float shadowNormalBias;
			float shadowRadius;
			vec2 shadowMapSize;
		};
		uniform SpotLightShadow spotLightShadows[ NUM_SPOT_LIGHT_SHADOWS ];
	#endif
	#if NUM_POINT_LIGHT_SHADOWS > 0
		#if defined( SHADOWMAP_TYPE_PCF )
			uniform samplerCubeShadow pointShadowMap[ NUM_POINT_LIGHT_SHADOWS ];
		#elif defined( SHADOWMAP_TYPE_BASIC )
			uniform samplerCube pointShadowMap[ NUM_POINT_LIGHT_SHADOWS ];
		#endif
		varying vec4 vPointShadowCoord[ NUM_POINT_LIGHT_SHADOWS ];
		struct PointLightShadow {
			float shadowIntensity;
			float shadowBias;
			float shadowNormalBias;
			float shadowRadius;
			vec2 shadowMapSize;
			float shadowCameraNear;
			float shadowCameraFar;
		};
		uniform PointLightShadow pointLightShadows[ NUM_POINT_LIGHT_SHADOWS ];
	#endif
	#if defined( SHADOWMAP_TYPE_PCF )
		float interleavedGradientNoise( vec2 position ) {
			return fract( 52.9829189 * fract( dot( position, vec2( 0.06711056, 0.00583715 ) ) ) );
		}
		vec2 vogelDiskSample( int sampleIndex, int samplesCount, float phi ) {
			const float goldenAngle = 2.399963229728653;
			float r = sqrt( ( float( sampleIndex ) + 0.5 ) / float( samplesCount ) );
			float theta = float( sampleIndex ) * goldenAngle + phi;
			return vec2( cos( theta ), sin( theta ) ) * r;
		}
	#endif
	#if defined( SHADOWMAP_TYPE_PCF )
		float getShadow( sampler2DShadow shadowMap, vec2 shadowMapSize, float shadowIntensity, float shadowBias, float shadowRadius, vec4 shadowCoord ) {
			float shadow = 1.0;
			shadowCoord.xyz /= shadowCoord.w;
			#ifdef USE_REVERSED_DEPTH_BUFFER
				shadowCoord.z -= shadowBias;
			#else
				shadowCoord.z += shadowBias;
			#endif
			bool inFrustum = shadowCoord.x >= 0.0 && shadowCoord.x <= 1.0 && shadowCoord.y >= 0.0 && shadowCoord.y <= 1.0;
			bool frustumTest = inFrustum && shadowCoord.z <= 1.0;
			if ( frustumTest ) {
				vec2 texelSize = vec2( 1.0 ) / shadowMapSize;
				vec2 radius = shadowRadius * texelSize;
				float phi = interleavedGradientNoise( gl_FragCoord.xy ) * PI2;
				shadow = (
					texture( shadowMap, vec3( shadowCoord.xy + vogelDiskSample( 0, 5, phi ) * radius, shadowCoord.z ) ) +
					texture( shadowMap, vec3( shadowCoord.xy + vogelDiskSample( 1, 5, phi ) * radius, shadowCoord.z ) ) +
					texture( shadowMap, vec3( shadowCoord.xy + vogelDiskSample( 2, 5, phi ) * radius, shadowCoord.z ) ) +
					texture( shadowMap, vec3( shadowCoord.xy + vogelDiskSample( 3, 5, phi ) * radius, shadowCoord.z ) ) +
					texture( shadowMap, vec3( shadowCoord.xy + vogelDiskSample( 4, 5, phi ) * radius, shadowCoord.z ) )
				) * 0.2;
			}
			return mix( 1.0, shadow, shadowIntensity );
		}
	#elif defined( SHADOWMAP_TYPE_VSM )
		float getShadow( sampler2D shadowMap, vec2 shadowMapSize, float shadowIntensity, float shadowBias, float shadowRadius, vec4 shadowCoord ) {
			float shadow = 1.0;
			shadowCoord.xyz /= shadowCoord.w;
			#ifdef USE_REVERSED_DEPTH_BUFFER
				shadowCoord.z -= shadowBias;
			#else
				shadowCoord.z += shadowBias;
			#endif
			bool inFrustum = shadowCoord.x >= 0.0 && shadowCoord.x <= 1.0 && shadowCoord.y >= 0.0 && shadowCoord.y <= 1.0;
			bool frustumTest = inFrustum && shadowCoord.z <= 1.0;
			if ( frustumTest ) {
				vec2 distribution = texture2D( shadowMap, shadowCoord.xy ).rg;
				float mean = distribution.x;
				float variance = distribution.y * distribution.y;
				#ifdef USE_REVERSED_DEPTH_BUFFER
					float hard_shadow = step( mean, shadowCoord.z );
				#else
					float hard_shadow = step( shadowCoord.z, mean );
				#endif
				
				if ( hard_shadow == 1.0 ) {
					shadow = 1.0;
				} else {
					variance = max( variance, 0.0000001 );
					float d = shadowCoord.z - mean;
					float p_max = variance / ( variance + d * d );
					p_max = clamp( ( p_max - 0.3 ) / 0.65, 0.0, 1.0 );
					shadow = max( hard_shadow, p_max );
				}
			}
			return mix( 1.0, shadow, shadowIntensity );
		}
	#else
		float getShadow( sampler2D shadowMap, vec2 shadowMapSize, float shadowIntensity, float shadowBias, float shadowRadius, vec4 shadowCoord ) {
			float shadow = 1.0;
			shadowCoord.xyz /= shadowCoord.w;
			#ifdef USE_REVERSED_DEPTH_BUFFER
				shadowCoord.z -= shadowBias;
			#else
				shadowCoord.z += shadowBias;
			#endif
			bool inFrustum = shadowCoord.x >= 0.0 && shadowCoord.x <= 1.0 && shadowCoord.y >= 0.0 && shadowCoord.y <= 1.0;
			bool frustumTest = inFrustum && shadowCoord.z <= 1.0;
			if ( frustumTest ) {
				float depth = texture2D( shadowMap, shadowCoord.xy ).r;
				#ifdef USE_REVERSED_DEPTH_BUFFER
					shadow = step( depth, shadowCoord.z );
				#else
					shadow = step( shadowCoord.z, depth );
				#endif
			}
			return mix( 1.0, shadow, shadowIntensity );
		}
	#endif
	#if NUM_SUN_LIGHT_SHADOWS > 0
		float getSunShadow(
			#if defined( SHADOWMAP_TYPE_PCF )
				sampler2DShadow shadowMap,
			#else
				sampler2D shadowMap,
			#endif
			SunLightShadow sunLightShadow,
			int shadowIndex
		) {
			vec4 shadowWorldPosition = vec4( vSunShadowWorldPosition.xyz + vSunShadowWorldNormal * sunLightShadow.shadowNormalBias, 1.0 );
			float viewDepth = vSunShadowWorldPosition.w;
			int cascadeOffset = shadowIndex * SUN_LIGHT_CASCADES;
			float shadow = 1.0;
			for ( int i = SUN_LIGHT_CASCADES - 1; i >= 0; i -- ) {
				vec4 cascade = sunShadowCascade[ cascadeOffset + i ];
				if ( viewDepth >= cascade.x && viewDepth < cascade.y ) {
					float cascadeShadow = getShadow(
						shadowMap,
						sunLightShadow.shadowMapSize,
						sunLightShadow.shadowIntensity,
						sunLightShadow.shadowBias,
						sunLightShadow.shadowRadius,
						sunShadowMatrix[ cascadeOffset + i ] * shadowWorldPosition
					);
					shadow = mix( cascadeShadow, shadow, smoothstep( cascade.z, cascade.y, viewDepth ) );
				}
			}
			return shadow;
		}
	#endif
	#if NUM_POINT_LIGHT_SHADOWS > 0
	#if defined( SHADOWMAP_TYPE_PCF )
	float getPointShadow( samplerCubeShadow shadowMap, vec2 shadowMapSize, float shadowIntensity, float shadowBias, float shadowRadius, vec4 shadowCoord, float shadowCameraNear, float shadowCameraFar ) {
		float shadow = 1.0;
		vec3 lightToPosition = shadowCoord.xyz;
		vec3 bd3D = normalize( lightToPosition );
		vec3 absVec = abs( lightToPosition );
		float viewSpaceZ = max( max( absVec.x, absVec.y ), absVec.z );
		if ( viewSpaceZ - shadowCameraFar <= 0.0 && viewSpaceZ - shadowCameraNear >= 0.0 ) {
			float lightDistance = length( lightToPosition );
			float depthRange = shadowCameraFar - shadowCameraNear;
			#ifdef USE_REVERSED_DEPTH_BUFFER
				float depthA = - shadowCameraNear / depthRange - shadowBias;
				float depthB = shadowCameraNear * shadowCameraFar / ( depthRange * lightDistance );
			#else
				float depthA = shadowCameraFar / depthRange + shadowBias;
				float depthB = - shadowCameraNear * shadowCameraFar / ( depthRange * lightDistance );
			#endif
			float texelSize = shadowRadius / shadowMapSize.x;
			vec3 absDir = abs( bd3D );
			vec3 tangent = absDir.x > absDir.z ? vec3( 0.0, 1.0, 0.0 ) : vec3( 1.0, 0.0, 0.0 );
			tangent = normalize( cross( bd3D, tangent ) );
			vec3 bitangent = cross( bd3D, tangent );
			float phi = interleavedGradientNoise( gl_FragCoord.xy ) * PI2;
			shadow = 0.0;
			for ( int i = 0; i < 5; i ++ ) {
				vec2 offset = vogelDiskSample( i, 5, phi );
				vec3 direction = bd3D + ( tangent * offset.x + bitangent * offset.y ) * texelSize;
				vec3 absDirection = abs( direction );
				float dp = depthA + depthB / max( max( absDirection.x, absDirection.y ), absDirection.z );
				shadow += texture( shadowMap, vec4( direction, dp ) );
			}
			shadow *= 0.2;
		}
		return mix( 1.0, shadow, shadowIntensity );
	}
	#elif defined( SHADOWMAP_TYPE_BASIC )
	float getPointShadow( samplerCube shadowMap, vec2 shadowMapSize, float shadowIntensity, float shadowBias, float shadowRadius, vec4 shadowCoord, float shadowCameraNear, float shadowCameraFar ) {
		float shadow = 1.0;
		vec3 lightToPosition = shadowCoord.xyz;
		vec3 absVec = abs( lightToPosition );
		float viewSpaceZ = max( max( absVec.x, absVec.y ), absVec.z );
		if ( viewSpaceZ - shadowCameraFar <= 0.0 && viewSpaceZ - shadowCameraNear >= 0.0 ) {
			float dp = ( shadowCameraFar * ( viewSpaceZ - shadowCameraNear ) ) / ( viewSpaceZ * ( shadowCameraFar - shadowCameraNear ) );
			dp += shadowBias;
			vec3 bd3D = normalize( lightToPosition );
			float depth = textureCube( shadowMap, bd3D ).r;
			#ifdef USE_REVERSED_DEPTH_BUFFER
				depth = 1.0 - depth;
			#endif
			shadow = step( dp, depth );
		}
		return mix( 1.0, shadow, shadowIntensity );
	}
	#endif
	#endif
#endif`,iS=`#if NUM_SPOT_LIGHT_COORDS > 0
	uniform mat4 spotLightMatrix[ NUM_SPOT_LIGHT_COORDS ];
	varying vec4 vSpotLightCoord[ NUM_SPOT_LIGHT_COORDS ];
#endif
#ifdef USE_SHADOWMAP
	#if NUM_SUN_LIGHT_SHADOWS > 0
		varying vec4 vSunShadowWorldPosition;
		varying vec3 vSunShadowWorldNormal;
	#endif
	#if NUM_DIR_LIGHT_SHADOWS > 0
		uniform mat4 directionalShadowMatrix[ NUM_DIR_LIGHT_SHADOWS ];
		varying vec4 vDirectionalShadowCoord[ NUM_DIR_LIGHT_SHADOWS ];
		struct DirectionalLightShadow {
			float shadowIntensity;
			float shadowBias;
			float shadowNormalBias;
			float shadowRadius;
			vec2 shadowMapSize;
		};
		uniform DirectionalLightShadow directionalLightShadows[ NUM_DIR_LIGHT_SHADOWS ];
	#endif
	#if NUM_SPOT_LIGHT_SHADOWS > 0
		struct SpotLightShadow {
			float shadowIntensity;
			float shadowBias;
			float shadowNormalBias;
			float shadowRadius;
			vec2 shadowMapSize;
		};
		uniform SpotLightShadow spotLightShadows[ NUM_SPOT_LIGHT_SHADOWS ];
	#endif
	#if NUM_POINT_LIGHT_SHADOWS > 0
		uniform mat4 pointShadowMatrix[ NUM_POINT_LIGHT_SHADOWS ];
		varying vec4 vPointShadowCoord[ NUM_POINT_LIGHT_SHADOWS ];
		struct PointLightShadow {
			float shadowIntensity;
			float shadowBias;
			float shadowNormalBias;
			float shadowRadius;
			vec2 shadowMapSize;
			float shadowCameraNear;
			float shadowCameraFar;
		};
		uniform PointLightShadow pointLightShadows[ NUM_POINT_LIGHT_SHADOWS ];
	#endif
#endif`,nS=`#if ( defined( USE_SHADOWMAP ) && ( NUM_DIR_LIGHT_SHADOWS > 0 || NUM_SUN_LIGHT_SHADOWS > 0 || NUM_POINT_LIGHT_SHADOWS > 0 ) ) || ( NUM_SPOT_LIGHT_COORDS > 0 )
	#ifdef HAS_NORMAL
		vec3 shadowWorldNormal = transformNormalByInverseViewMatrix( transformedNormal, viewMatrix );
	#else
		vec3 shadowWorldNormal = vec3( 0.0 );
	#endif
	vec4 shadowWorldPosition;
#endif
#if defined( USE_SHADOWMAP )
	#if NUM_SUN_LIGHT_SHADOWS > 0
		vSunShadowWorldPosition = vec4( worldPosition.xyz, - mvPosition.z );
		vSunShadowWorldNormal = shadowWorldNormal;
	#endif
	#if NUM_DIR_LIGHT_SHADOWS > 0
		#pragma unroll_loop_start
		for ( int i = 0; i < NUM_DIR_LIGHT_SHADOWS; i ++ ) {
			shadowWorldPosition = worldPosition + vec4( shadowWorldNormal * directionalLightShadows[ i ].shadowNormalBias, 0 );
			vDirectionalShadowCoord[ i ] = directionalShadowMatrix[ i ] * shadowWorldPosition;
		}
		#pragma unroll_loop_end
	#endif
	#if NUM_POINT_LIGHT_SHADOWS > 0
		#pragma unroll_loop_start
		for ( int i = 0; i < NUM_POINT_LIGHT_SHADOWS; i ++ ) {
			shadowWorldPosition = worldPosition + vec4( shadowWorldNormal * pointLightShadows[ i ].shadowNormalBias, 0 );
			vPointShadowCoord[ i ] = pointShadowMatrix[ i ] * shadowWorldPosition;
		}
		#pragma unroll_loop_end
	#endif
#endif
#if NUM_SPOT_LIGHT_COORDS > 0
	#pragma unroll_loop_start
	for ( int i = 0; i < NUM_SPOT_LIGHT_COORDS; i ++ ) {
		shadowWorldPosition = worldPosition;
		#if ( defined( USE_SHADOWMAP ) && UNROLLED_LOOP_INDEX < NUM_SPOT_LIGHT_SHADOWS )
			shadowWorldPosition.xyz += shadowWorldNormal * spotLightShadows[ i ].shadowNormalBias;
		#endif
		vSpotLightCoord[ i ] = spotLightMatrix[ i ] * shadowWorldPosition;
	}
	#pragma unroll_loop_end
#endif`,sS=`float getShadowMask() {
	float shadow = 1.0;
	#ifdef USE_SHADOWMAP
	#if NUM_SUN_LIGHT_SHADOWS > 0
	SunLightShadow sunLight;
	#pragma unroll_loop_start
	for ( int i = 0; i < NUM_SUN_LIGHT_SHADOWS; i ++ ) {
		sunLight = sunLightShadows[ i ];
		shadow *= receiveShadow ? getSunShadow( sunShadowMap[ i ], sunLight, UNROLLED_LOOP_INDEX ) : 1.0;
	}
	#pragma unroll_loop_end
	#endif
	#if NUM_DIR_LIGHT_SHADOWS > 0
	DirectionalLightShadow directionalLight;
	#pragma unroll_loop_start
	for ( int i = 0; i < NUM_DIR_LIGHT_SHADOWS; i ++ ) {
		directionalLight = directionalLightShadows[ i ];
		shadow *= receiveShadow ? getShadow( directionalShadowMap[ i ], directionalLight.shadowMapSize, directionalLight.shadowIntensity, directionalLight.shadowBias, directionalLight.shadowRadius, vDirectionalShadowCoord[ i ] ) : 1.0;
	}
	#pragma unroll_loop_end
	#endif
	#if NUM_SPOT_LIGHT_SHADOWS > 0
	SpotLightShadow spotLight;
	#pragma unroll_loop_start
	for ( int i = 0; i < NUM_SPOT_LIGHT_SHADOWS; i ++ ) {
		spotLight = spotLightShadows[ i ];
		shadow *= receiveShadow ? getShadow( spotShadowMap[ i ], spotLight.shadowMapSize, spotLight.shadowIntensity, spotLight.shadowBias, spotLight.shadowRadius, vSpotLightCoord[ i ] ) : 1.0;
	}
	#pragma unroll_loop_end
	#endif
	#if NUM_POINT_LIGHT_SHADOWS > 0 && ( defined( SHADOWMAP_TYPE_PCF ) || defined( SHADOWMAP_TYPE_BASIC ) )
	PointLightShadow pointLight;
	#pragma unroll_loop_start
	for ( int i = 0; i < NUM_POINT_LIGHT_SHADOWS; i ++ ) {
		pointLight = pointLightShadows[ i ];
		shadow *= receiveShadow ? getPointShadow( pointShadowMap[ i ], pointLight.shadowMapSize, pointLight.shadowIntensity, pointLight.shadowBias, pointLight.shadowRadius, vPointShadowCoord[ i ], pointLight.shadowCameraNear, pointLight.shadowCameraFar ) : 1.0;
	}
	#pragma unroll_loop_end
	#endif
	#endif
	return shadow;
}`,rS=`#ifdef USE_SKINNING
	mat4 boneMatX = getBoneMatrix( skinIndex.x );
	mat4 boneMatY = getBoneMatrix( skinIndex.y );
	mat4 boneMatZ = getBoneMatrix( skinIndex.z );
	mat4 boneMatW = getBoneMatrix( skinIndex.w );
#endif`,aS=`#ifdef USE_SKINNING
	uniform mat4 bindMatrix;
	uniform mat4 bindMatrixInverse;
	uniform highp sampler2D boneTexture;
	mat4 getBoneMatrix( const in float i ) {
		int size = textureSize( boneTexture, 0 ).x;
		int j = int( i ) * 4;
		int x = j % size;
		int y = j / size;
		vec4 v1 = texelFetch( boneTexture, ivec2( x, y ), 0 );
		vec4 v2 = texelFetch( boneTexture, ivec2( x + 1, y ), 0 );
		vec4 v3 = texelFetch( boneTexture, ivec2( x + 2, y ), 0 );
		vec4 v4 = texelFetch( boneTexture, ivec2( x + 3, y ), 0 );
		return mat4( v1, v2, v3, v4 );
	}
#endif`,oS=`#ifdef USE_SKINNING
	vec4 skinVertex = bindMatrix * vec4( transformed, 1.0 );
	vec4 skinned = vec4( 0.0 );
	skinned += boneMatX * skinVertex * skinWeight.x;
	skinned += boneMatY * skinVertex * skinWeight.y;
	skinned += boneMatZ * skinVertex * skinWeight.z;
	skinned += boneMatW * skinVertex * skinWeight.w;
	transformed = ( bindMatrixInverse * skinned ).xyz;
#endif`,lS=`#ifdef USE_SKINNING
	mat4 skinMatrix = mat4( 0.0 );
	skinMatrix += skinWeight.x * boneMatX;
	skinMatrix += skinWeight.y * boneMatY;
	skinMatrix += skinWeight.z * boneMatZ;
	skinMatrix += skinWeight.w * boneMatW;
	skinMatrix = bindMatrixInverse * skinMatrix * bindMatrix;
	objectNormal = vec4( skinMatrix * vec4( objectNormal, 0.0 ) ).xyz;
	#ifdef USE_TANGENT
		objectTangent = vec4( skinMatrix * vec4( objectTangent, 0.0 ) ).xyz;
	#endif
#endif`,cS=`float specularStrength;
#ifdef USE_SPECULARMAP
	vec4 texelSpecular = texture2D( specularMap, vSpecularMapUv );
	specularStrength = texelSpecular.r;
#else
	specularStrength = 1.0;
#endif`,hS=`#ifdef USE_SPECULARMAP
	uniform sampler2D specularMap;
#endif`,uS=`#if defined( TONE_MAPPING )
	gl_FragColor.rgb = toneMapping( gl_FragColor.rgb );
#endif`,dS=`#ifndef saturate
#define saturate( a ) clamp( a, 0.0, 1.0 )
#endif
uniform float toneMappingExposure;
vec3 LinearToneMapping( vec3 color ) {
	return saturate( toneMappingExposure * color );
}
vec3 ReinhardToneMapping( vec3 color ) {
	color *= toneMappingExposure;
	return saturate( color / ( vec3( 1.0 ) + color ) );
}
vec3 CineonToneMapping( vec3 color ) {
	color *= toneMappingExposure;
	color = max( vec3( 0.0 ), color - 0.004 );
	return pow( ( color * ( 6.2 * color + 0.5 ) ) / ( color * ( 6.2 * color + 1.7 ) + 0.06 ), vec3( 2.2 ) );
}
vec3 RRTAndODTFit( vec3 v ) {
	vec3 a = v * ( v + 0.0245786 ) - 0.000090537;
	vec3 b = v * ( 0.983729 * v + 0.4329510 ) + 0.238081;
	return a / b;
}
vec3 ACESFilmicToneMapping( vec3 color ) {
	const mat3 ACESInputMat = mat3(
		vec3( 0.59719, 0.07600, 0.02840 ),		vec3( 0.35458, 0.90834, 0.13383 ),
		vec3( 0.04823, 0.01566, 0.83777 )
	);
	const mat3 ACESOutputMat = mat3(
		vec3(  1.60475, -0.10208, -0.00327 ),		vec3( -0.53108,  1.10813, -0.07276 ),
		vec3( -0.07367, -0.00605,  1.07602 )
	);
	color *= toneMappingExposure / 0.6;
	color = ACESInputMat * color;
	color = RRTAndODTFit( color );
	color = ACESOutputMat * color;
	return saturate( color );
}
const mat3 LINEAR_REC2020_TO_LINEAR_SRGB = mat3(
	vec3( 1.6605, - 0.1246, - 0.0182 ),
	vec3( - 0.5876, 1.1329, - 0.1006 ),
	vec3( - 0.0728, - 0.0083, 1.1187 )
);
const mat3 LINEAR_SRGB_TO_LINEAR_REC2020 = mat3(
	vec3( 0.6274, 0.0691, 0.0164 ),
	vec3( 0.3293, 0.9195, 0.0880 ),
	vec3( 0.0433, 0.0113, 0.8956 )
);
vec3 agxDefaultContrastApprox( vec3 x ) {
	vec3 x2 = x * x;
	vec3 x4 = x2 * x2;
	return + 15.5 * x4 * x2
		- 40.14 * x4 * x
		+ 31.96 * x4
		- 6.868 * x2 * x
		+ 0.4298 * x2
		+ 0.1191 * x
		- 0.00232;
}
vec3 AgXToneMapping( vec3 color ) {
	const mat3 AgXInsetMatrix = mat3(
		vec3( 0.856627153315983, 0.137318972929847, 0.11189821299995 ),
		vec3( 0.0951212405381588, 0.761241990602591, 0.0767994186031903 ),
		vec3( 0.0482516061458583, 0.101439036467562, 0.811302368396859 )
	);
	const mat3 AgXOutsetMatrix = mat3(
		vec3( 1.1271005818144368, - 0.1413297634984383, - 0.14132976349843826 ),
		vec3( - 0.11060664309660323, 1.157823702216272, - 0.11060664309660294 ),
		vec3( - 0.016493938717834573, - 0.016493938717834257, 1.2519364065950405 )
	);
	const float AgxMinEv = - 12.47393;	const float AgxMaxEv = 4.026069;
	color *= toneMappingExposure;
	color = LINEAR_SRGB_TO_LINEAR_REC2020 * color;
	color = AgXInsetMatrix * color;
	color = max( color, 1e-10 );	color = log2( color );
	color = ( color - AgxMinEv ) / ( AgxMaxEv - AgxMinEv );
	color = clamp( color, 0.0, 1.0 );
	color = agxDefaultContrastApprox( color );
	color = AgXOutsetMatrix * color;
	color = pow( max( vec3( 0.0 ), color ), vec3( 2.2 ) );
	color = LINEAR_REC2020_TO_LINEAR_SRGB * color;
	color = clamp( color, 0.0, 1.0 );
	return color;
}
vec3 NeutralToneMapping( vec3 color ) {
	const float StartCompression = 0.8 - 0.04;
	const float Desaturation = 0.15;
	color *= toneMappingExposure;
	float x = min( color.r, min( color.g, color.b ) );
	float offset = x < 0.08 ? x - 6.25 * x * x : 0.04;
	color -= offset;
	float peak = max( color.r, max( color.g, color.b ) );
	if ( peak < StartCompression ) return color;
	float d = 1. - StartCompression;
	float newPeak = 1. - d * d / ( peak + d - StartCompression );
	color *= newPeak / peak;
	float g = 1. - 1. / ( Desaturation * ( peak - newPeak ) + 1. );
	return mix( color, vec3( newPeak ), g );
}
vec3 CustomToneMapping( vec3 color ) { return color; }`,fS=`#ifdef USE_TRANSMISSION
	material.transmission = transmission;
	material.transmissionAlpha = 1.0;
	material.thickness = thickness;
	material.attenuationDistance = attenuationDistance;
	material.attenuationColor = attenuationColor;
	#ifdef USE_TRANSMISSIONMAP
		material.transmission *= texture2D( transmissionMap, vTransmissionMapUv ).r;
	#endif
	#ifdef USE_THICKNESSMAP
		material.thickness *= texture2D( thicknessMap, vThicknessMapUv ).g;
	#endif
	vec3 pos = vWorldPosition;
	vec3 v = normalize( cameraPosition - pos );
	vec3 n = transformNormalByInverseViewMatrix( normal, viewMatrix );
	vec4 transmitted = getIBLVolumeRefraction(
		n, v, material.roughness, material.diffuseContribution, material.specularColorBlended, material.specularF90,
		pos, modelMatrix, viewMatrix, projectionMatrix, material.dispersion, material.ior, material.thickness,
		material.attenuationColor, material.attenuationDistance );
	material.transmissionAlpha = mix( material.transmissionAlpha, transmitted.a, material.transmission );
	totalDiffuse = mix( totalDiffuse, transmitted.rgb, material.transmission );
#endif`,pS=`#ifdef USE_TRANSMISSION
	uniform float transmission;
	uniform float thickness;
	uniform float attenuationDistance;
	uniform vec3 attenuationColor;
	#ifdef USE_TRANSMISSIONMAP
		uniform sampler2D transmissionMap;
	#endif
	#ifdef USE_THICKNESSMAP
		uniform sampler2D thicknessMap;
	#endif
	uniform vec2 transmissionSamplerSize;
	uniform sampler2D transmissionSamplerMap;
	uniform mat4 modelMatrix;
	uniform mat4 projectionMatrix;
	varying vec3 vWorldPosition;
	float w0( float a ) {
		return ( 1.0 / 6.0 ) * ( a * ( a * ( - a + 3.0 ) - 3.0 ) + 1.0 );
	}
	float w1( float a ) {
		return ( 1.0 / 6.0 ) * ( a *  a * ( 3.0 * a - 6.0 ) + 4.0 );
	}
	float w2( float a ){
		return ( 1.0 / 6.0 ) * ( a * ( a * ( - 3.0 * a + 3.0 ) + 3.0 ) + 1.0 );
	}
	float w3( float a ) {
		return ( 1.0 / 6.0 ) * ( a * a * a );
	}
	float g0( float a ) {
		return w0( a ) + w1( a );
	}
	float g1( float a ) {
		return w2( a ) + w3( a );
	}
	float h0( float a ) {
		return - 1.0 + w1( a ) / ( w0( a ) + w1( a ) );
	}
	float h1( float a ) {
		return 1.0 + w3( a ) / ( w2( a ) + w3( a ) );
	}
	vec4 bicubic( sampler2D tex, vec2 uv, vec4 texelSize, float lod ) {
		uv = uv * texelSize.zw + 0.5;
		vec2 iuv = floor( uv );
		vec2 fuv = fract( uv );
		float g0x = g0( fuv.x );
		float g1x = g1( fuv.x );
		float h0x = h0( fuv.x );
		float h1x = h1( fuv.x );
		float h0y = h0( fuv.y );
		float h1y = h1( fuv.y );
		vec2 p0 = ( vec2( iuv.x + h0x, iuv.y + h0y ) - 0.5 ) * texelSize.xy;
		vec2 p1 = ( vec2( iuv.x + h1x, iuv.y + h0y ) - 0.5 ) * texelSize.xy;
		vec2 p2 = ( vec2( iuv.x + h0x, iuv.y + h1y ) - 0.5 ) * texelSize.xy;
		vec2 p3 = ( vec2( iuv.x + h1x, iuv.y + h1y ) - 0.5 ) * texelSize.xy;
		return g0( fuv.y ) * ( g0x * textureLod( tex, p0, lod ) + g1x * textureLod( tex, p1, lod ) ) +
			g1( fuv.y ) * ( g0x * textureLod( tex, p2, lod ) + g1x * textureLod( tex, p3, lod ) );
	}
	vec4 textureBicubic( sampler2D sampler, vec2 uv, float lod ) {
		vec2 fLodSize = vec2( textureSize( sampler, int( lod ) ) );
		vec2 cLodSize = vec2( textureSize( sampler, int( lod + 1.0 ) ) );
		vec2 fLodSizeInv = 1.0 / fLodSize;
		vec2 cLodSizeInv = 1.0 / cLodSize;
		vec4 fSample = bicubic( sampler, uv, vec4( fLodSizeInv, fLodSize ), floor( lod ) );
		vec4 cSample = bicubic( sampler, uv, vec4( cLodSizeInv, cLodSize ), ceil( lod ) );
		return mix( fSample, cSample, fract( lod ) );
	}
	vec3 getVolumeTransmissionRay( const in vec3 n, const in vec3 v, const in float thickness, const in float ior, const in mat4 modelMatrix ) {
		vec3 refractionVector = refract( - v, normalize( n ), 1.0 / ior );
		vec3 modelScale;
		modelScale.x = length( vec3( modelMatrix[ 0 ].xyz ) );
		modelScale.y = length( vec3( modelMatrix[ 1 ].xyz ) );
		modelScale.z = length( vec3( modelMatrix[ 2 ].xyz ) );
		return normalize( refractionVector ) * thickness * modelScale;
	}
	float applyIorToRoughness( const in float roughness, const in float ior ) {
		return roughness * clamp( ior * 2.0 - 2.0, 0.0, 1.0 );
	}
	vec4 getTransmissionSample( const in vec2 fragCoord, const in float roughness, const in float ior ) {
		float lod = log2( transmissionSamplerSize.x ) * applyIorToRoughness( roughness, ior );
		return textureBicubic( transmissionSamplerMap, fragCoord.xy, lod );
	}
	vec3 volumeAttenuation( const in float transmissionDistance, const in vec3 attenuationColor, const in float attenuationDistance ) {
		if ( isinf( attenuationDistance ) ) {
			return vec3( 1.0 );
		} else {
			vec3 attenuationCoefficient = -log( attenuationColor ) / attenuationDistance;
			vec3 transmittance = exp( - attenuationCoefficient * transmissionDistance );			return transmittance;
		}
	}
	vec4 getIBLVolumeRefraction( const in vec3 n, const in vec3 v, const in float roughness, const in vec3 diffuseColor,
		const in vec3 specularColor, const in float specularF90, const in vec3 position, const in mat4 modelMatrix,
		const in mat4 viewMatrix, const in mat4 projMatrix, const in float dispersion, const in float ior, const in float thickness,
		const in vec3 attenuationColor, const in float attenuationDistance ) {
		vec4 transmittedLight;
		vec3 transmittance;
		#ifdef USE_DISPERSION
			float halfSpread = ( ior - 1.0 ) * 0.025 * dispersion;
			vec3 iors = vec3( ior - halfSpread, ior, ior + halfSpread );
			for ( int i = 0; i < 3; i ++ ) {
				vec3 transmissionRay = getVolumeTransmissionRay( n, v, thickness, iors[ i ], modelMatrix );
				vec3 refractedRayExit = position + transmissionRay;
				vec4 ndcPos = projMatrix * viewMatrix * vec4( refractedRayExit, 1.0 );
				vec2 refractionCoords = ndcPos.xy / ndcPos.w;
				refractionCoords += 1.0;
				refractionCoords /= 2.0;
				vec4 transmissionSample = getTransmissionSample( refractionCoords, roughness, iors[ i ] );
				transmittedLight[ i ] = transmissionSample[ i ];
				transmittedLight.a += transmissionSample.a;
				transmittance[ i ] = diffuseColor[ i ] * volumeAttenuation( length( transmissionRay ), attenuationColor, attenuationDistance )[ i ];
			}
			transmittedLight.a /= 3.0;
		#else
			vec3 transmissionRay = getVolumeTransmissionRay( n, v, thickness, ior, modelMatrix );
			vec3 refractedRayExit = position + transmissionRay;
			vec4 ndcPos = projMatrix * viewMatrix * vec4( refractedRayExit, 1.0 );
			vec2 refractionCoords = ndcPos.xy / ndcPos.w;
			refractionCoords += 1.0;
			refractionCoords /= 2.0;
			transmittedLight = getTransmissionSample( refractionCoords, roughness, ior );
			transmittance = diffuseColor * volumeAttenuation( length( transmissionRay ), attenuationColor, attenuationDistance );
		#endif
		vec3 attenuatedColor = transmittance * transmittedLight.rgb;
		vec3 F = EnvironmentBRDF( n, v, specularColor, specularF90, roughness );
		float transmittanceFactor = ( transmittance.r + transmittance.g + transmittance.b ) / 3.0;
		return vec4( ( 1.0 - F ) * attenuatedColor, 1.0 - ( 1.0 - transmittedLight.a ) * transmittanceFactor );
	}
#endif`,mS=`#if defined( USE_UV ) || defined( USE_ANISOTROPY )
	varying vec2 vUv;
#endif
#ifdef USE_MAP
	varying vec2 vMapUv;
#endif
#ifdef USE_ALPHAMAP
	varying vec2 vAlphaMapUv;
#endif
#ifdef USE_LIGHTMAP
	varying vec2 vLightMapUv;
#endif
#ifdef USE_AOMAP
	varying vec2 vAoMapUv;
#endif
#ifdef USE_BUMPMAP
	varying vec2 vBumpMapUv;
#endif
#ifdef USE_NORMALMAP
	varying vec2 vNormalMapUv;
#endif
#ifdef USE_EMISSIVEMAP
	varying vec2 vEmissiveMapUv;
#endif
#ifdef USE_METALNESSMAP
	varying vec2 vMetalnessMapUv;
#endif
#ifdef USE_ROUGHNESSMAP
	varying vec2 vRoughnessMapUv;
#endif
#ifdef USE_DIFFUSE_ROUGHNESSMAP
	varying vec2 vDiffuseRoughnessMapUv;
#endif
#ifdef USE_ANISOTROPYMAP
	varying vec2 vAnisotropyMapUv;
#endif
#ifdef USE_CLEARCOATMAP
	varying vec2 vClearcoatMapUv;
#endif
#ifdef USE_CLEARCOAT_NORMALMAP
	varying vec2 vClearcoatNormalMapUv;
#endif
#ifdef USE_CLEARCOAT_ROUGHNESSMAP
	varying vec2 vClearcoatRoughnessMapUv;
#endif
#ifdef USE_IRIDESCENCEMAP
	varying vec2 vIridescenceMapUv;
#endif
#ifdef USE_IRIDESCENCE_THICKNESSMAP
	varying vec2 vIridescenceThicknessMapUv;
#endif
#ifdef USE_SHEEN_COLORMAP
	varying vec2 vSheenColorMapUv;
#endif
#ifdef USE_SHEEN_ROUGHNESSMAP
	varying vec2 vSheenRoughnessMapUv;
#endif
#ifdef USE_SPECULARMAP
	varying vec2 vSpecularMapUv;
#endif
#ifdef USE_SPECULAR_COLORMAP
	varying vec2 vSpecularColorMapUv;
#endif
#ifdef USE_SPECULAR_INTENSITYMAP
	varying vec2 vSpecularIntensityMapUv;
#endif
#ifdef USE_TRANSMISSIONMAP
	uniform mat3 transmissionMapTransform;
	varying vec2 vTransmissionMapUv;
#endif
#ifdef USE_THICKNESSMAP
	uniform mat3 thicknessMapTransform;
	varying vec2 vThicknessMapUv;
#endif`,gS=`#if defined( USE_UV ) || defined( USE_ANISOTROPY )
	varying vec2 vUv;
#endif
#ifdef USE_MAP
	uniform mat3 mapTransform;
	varying vec2 vMapUv;
#endif
#ifdef USE_ALPHAMAP
	uniform mat3 alphaMapTransform;
	varying vec2 vAlphaMapUv;
#endif
#ifdef USE_LIGHTMAP
	uniform mat3 lightMapTransform;
	varying vec2 vLightMapUv;
#endif
#ifdef USE_AOMAP
	uniform mat3 aoMapTransform;
	varying vec2 vAoMapUv;
#endif
#ifdef USE_BUMPMAP
	uniform mat3 bumpMapTransform;
	varying vec2 vBumpMapUv;
#endif
#ifdef USE_NORMALMAP
	uniform mat3 normalMapTransform;
	varying vec2 vNormalMapUv;
#endif
#ifdef USE_DISPLACEMENTMAP
	uniform mat3 displacementMapTransform;
	varying vec2 vDisplacementMapUv;
#endif
#ifdef USE_EMISSIVEMAP
	uniform mat3 emissiveMapTransform;
	varying vec2 vEmissiveMapUv;
#endif
#ifdef USE_METALNESSMAP
	uniform mat3 metalnessMapTransform;
	varying vec2 vMetalnessMapUv;
#endif
#ifdef USE_ROUGHNESSMAP
	uniform mat3 roughnessMapTransform;
	varying vec2 vRoughnessMapUv;
#endif
#ifdef USE_DIFFUSE_ROUGHNESSMAP
	uniform mat3 diffuseRoughnessMapTransform;
	varying vec2 vDiffuseRoughnessMapUv;
#endif
#ifdef USE_ANISOTROPYMAP
	uniform mat3 anisotropyMapTransform;
	varying vec2 vAnisotropyMapUv;
#endif
#ifdef USE_CLEARCOATMAP
	uniform mat3 clearcoatMapTransform;
	varying vec2 vClearcoatMapUv;
#endif
#ifdef USE_CLEARCOAT_NORMALMAP
	uniform mat3 clearcoatNormalMapTransform;
	varying vec2 vClearcoatNormalMapUv;
#endif
#ifdef USE_CLEARCOAT_ROUGHNESSMAP
	uniform mat3 clearcoatRoughnessMapTransform;
	varying vec2 vClearcoatRoughnessMapUv;
#endif
#ifdef USE_SHEEN_COLORMAP
	uniform mat3 sheenColorMapTransform;
	varying vec2 vSheenColorMapUv;
#endif
#ifdef USE_SHEEN_ROUGHNESSMAP
	uniform mat3 sheenRoughnessMapTransform;
	varying vec2 vSheenRoughnessMapUv;
#endif
#ifdef USE_IRIDESCENCEMAP
	uniform mat3 iridescenceMapTransform;
	varying vec2 vIridescenceMapUv;
#endif
#ifdef USE_IRIDESCENCE_THICKNESSMAP
	uniform mat3 iridescenceThicknessMapTransform;
	varying vec2 vIridescenceThicknessMapUv;
#endif
#ifdef USE_SPECULARMAP
	uniform mat3 specularMapTransform;
	varying vec2 vSpecularMapUv;
#endif
#ifdef USE_SPECULAR_COLORMAP
	uniform mat3 specularColorMapTransform;
	varying vec2 vSpecularColorMapUv;
#endif
#ifdef USE_SPECULAR_INTENSITYMAP
	uniform mat3 specularIntensityMapTransform;
	varying vec2 vSpecularIntensityMapUv;
#endif
#ifdef USE_TRANSMISSIONMAP
	uniform mat3 transmissionMapTransform;
	varying vec2 vTransmissionMapUv;
#endif
#ifdef USE_THICKNESSMAP
	uniform mat3 thicknessMapTransform;
	varying vec2 vThicknessMapUv;
#endif`,_S=`#if defined( USE_UV ) || defined( USE_ANISOTROPY )
	vUv = vec3( uv, 1 ).xy;
#endif
#ifdef USE_MAP
	vMapUv = ( mapTransform * vec3( MAP_UV, 1 ) ).xy;
#endif
#ifdef USE_ALPHAMAP
	vAlphaMapUv = ( alphaMapTransform * vec3( ALPHAMAP_UV, 1 ) ).xy;
#endif
#ifdef USE_LIGHTMAP
	vLightMapUv = ( lightMapTransform * vec3( LIGHTMAP_UV, 1 ) ).xy;
#endif
#ifdef USE_AOMAP
	vAoMapUv = ( aoMapTransform * vec3( AOMAP_UV, 1 ) ).xy;
#endif
#ifdef USE_BUMPMAP
	vBumpMapUv = ( bumpMapTransform * vec3( BUMPMAP_UV, 1 ) ).xy;
#endif
#ifdef USE_NORMALMAP
	vNormalMapUv = ( normalMapTransform * vec3( NORMALMAP_UV, 1 ) ).xy;
#endif
#ifdef USE_DISPLACEMENTMAP
	vDisplacementMapUv = ( displacementMapTransform * vec3( DISPLACEMENTMAP_UV, 1 ) ).xy;
#endif
#ifdef USE_EMISSIVEMAP
	vEmissiveMapUv = ( emissiveMapTransform * vec3( EMISSIVEMAP_UV, 1 ) ).xy;
#endif
#ifdef USE_METALNESSMAP
	vMetalnessMapUv = ( metalnessMapTransform * vec3( METALNESSMAP_UV, 1 ) ).xy;
#endif
#ifdef USE_ROUGHNESSMAP
	vRoughnessMapUv = ( roughnessMapTransform * vec3( ROUGHNESSMAP_UV, 1 ) ).xy;
#endif
#ifdef USE_DIFFUSE_ROUGHNESSMAP
	vDiffuseRoughnessMapUv = ( diffuseRoughnessMapTransform * vec3( DIFFUSE_ROUGHNESSMAP_UV, 1 ) ).xy;
#endif
#ifdef USE_ANISOTROPYMAP
	vAnisotropyMapUv = ( anisotropyMapTransform * vec3( ANISOTROPYMAP_UV, 1 ) ).xy;
#endif
#ifdef USE_CLEARCOATMAP
	vClearcoatMapUv = ( clearcoatMapTransform * vec3( CLEARCOATMAP_UV, 1 ) ).xy;
#endif
#ifdef USE_CLEARCOAT_NORMALMAP
	vClearcoatNormalMapUv = ( clearcoatNormalMapTransform * vec3( CLEARCOAT_NORMALMAP_UV, 1 ) ).xy;
#endif
#ifdef USE_CLEARCOAT_ROUGHNESSMAP
	vClearcoatRoughnessMapUv = ( clearcoatRoughnessMapTransform * vec3( CLEARCOAT_ROUGHNESSMAP_UV, 1 ) ).xy;
#endif
#ifdef USE_IRIDESCENCEMAP
	vIridescenceMapUv = ( iridescenceMapTransform * vec3( IRIDESCENCEMAP_UV, 1 ) ).xy;
#endif
#ifdef USE_IRIDESCENCE_THICKNESSMAP
	vIridescenceThicknessMapUv = ( iridescenceThicknessMapTransform * vec3( IRIDESCENCE_THICKNESSMAP_UV, 1 ) ).xy;
#endif
#ifdef USE_SHEEN_COLORMAP
	vSheenColorMapUv = ( sheenColorMapTransform * vec3( SHEEN_COLORMAP_UV, 1 ) ).xy;
#endif
#ifdef USE_SHEEN_ROUGHNESSMAP
	vSheenRoughnessMapUv = ( sheenRoughnessMapTransform * vec3( SHEEN_ROUGHNESSMAP_UV, 1 ) ).xy;
#endif
#ifdef USE_SPECULARMAP
	vSpecularMapUv = ( specularMapTransform * vec3( SPECULARMAP_UV, 1 ) ).xy;
#endif
#ifdef USE_SPECULAR_COLORMAP
	vSpecularColorMapUv = ( specularColorMapTransform * vec3( SPECULAR_COLORMAP_UV, 1 ) ).xy;
#endif
#ifdef USE_SPECULAR_INTENSITYMAP
	vSpecularIntensityMapUv = ( specularIntensityMapTransform * vec3( SPECULAR_INTENSITYMAP_UV, 1 ) ).xy;
#endif
#ifdef USE_TRANSMISSIONMAP
	vTransmissionMapUv = ( transmissionMapTransform * vec3( TRANSMISSIONMAP_UV, 1 ) ).xy;
#endif
#ifdef USE_THICKNESSMAP
	vThicknessMapUv = ( thicknessMapTransform * vec3( THICKNESSMAP_UV, 1 ) ).xy;
#endif`,xS=`#if defined( USE_ENVMAP ) || defined( DISTANCE ) || defined ( USE_SHADOWMAP ) || defined ( USE_TRANSMISSION ) || NUM_SPOT_LIGHT_COORDS > 0
	vec4 worldPosition = vec4( transformed, 1.0 );
	#ifdef USE_BATCHING
		worldPosition = batchingMatrix * worldPosition;
	#endif
	#ifdef USE_INSTANCING
		worldPosition = instanceMatrix * worldPosition;
	#endif
	worldPosition = modelMatrix * worldPosition;
#endif`,yS=`varying vec2 vUv;
uniform mat3 uvTransform;
void main() {
	vUv = ( uvTransform * vec3( uv, 1 ) ).xy;
	gl_Position = vec4( position.xy, 1.0, 1.0 );
}`,vS=`uniform sampler2D t2D;
uniform float backgroundIntensity;
varying vec2 vUv;
void main() {
	vec4 texColor = texture2D( t2D, vUv );
	#ifdef DECODE_VIDEO_TEXTURE
		texColor = vec4( mix( pow( texColor.rgb * 0.9478672986 + vec3( 0.0521327014 ), vec3( 2.4 ) ), texColor.rgb * 0.0773993808, vec3( lessThanEqual( texColor.rgb, vec3( 0.04045 ) ) ) ), texColor.w );
	#endif
	texColor.rgb *= backgroundIntensity;
	gl_FragColor = texColor;
	#include <tonemapping_fragment>
	#include <colorspace_fragment>
}`,SS=`varying vec3 vWorldDirection;
#include <common>
void main() {
	vWorldDirection = transformDirection( position, modelMatrix );
	#include <begin_vertex>
	#include <project_vertex>
	gl_Position.z = gl_Position.w;
}`,MS=`uniform float backgroundBlurriness;
uniform float backgroundIntensity;
uniform mat3 backgroundRotation;
varying vec3 vWorldDirection;
#include <envmap_common_pars_fragment>
void main() {
	#ifdef ENVMAP_TYPE_PMREM
		vec4 texColor = textureLod( envMap, backgroundRotation * vWorldDirection, roughnessToMip( backgroundBlurriness ) );
	#else
		vec4 texColor = textureCube( envMap, backgroundRotation * vWorldDirection );
	#endif
	texColor.rgb *= backgroundIntensity;
	gl_FragColor = texColor;
	#include <tonemapping_fragment>
	#include <colorspace_fragment>
}`,bS=`varying vec3 vWorldDirection;
#include <common>
void main() {
	vWorldDirection = transformDirection( position, modelMatrix );
	#include <begin_vertex>
	#include <project_vertex>
	gl_Position.z = gl_Position.w;
}`,wS=`uniform samplerCube tCube;
uniform float tFlip;
uniform float opacity;
varying vec3 vWorldDirection;
void main() {
	vec4 texColor = textureCube( tCube, vec3( tFlip * vWorldDirection.x, vWorldDirection.yz ) );
	gl_FragColor = texColor;
	gl_FragColor.a *= opacity;
	#include <tonemapping_fragment>
	#include <colorspace_fragment>
}`,ES=`#include <common>
#include <batching_pars_vertex>
#include <uv_pars_vertex>
#include <displacementmap_pars_vertex>
#include <morphtarget_pars_vertex>
#include <skinning_pars_vertex>
#include <logdepthbuf_pars_vertex>
#include <clipping_planes_pars_vertex>
varying vec2 vHighPrecisionZW;
void main() {
	#include <uv_vertex>
	#include <batching_vertex>
	#include <skinbase_vertex>
	#include <morphinstance_vertex>
	#ifdef USE_DISPLACEMENTMAP
		#include <beginnormal_vertex>
		#include <morphnormal_vertex>
		#include <skinnormal_vertex>
	#endif
	#include <begin_vertex>
	#include <morphtarget_vertex>
	#include <skinning_vertex>
	#include <displacementmap_vertex>
	#include <project_vertex>
	#include <logdepthbuf_vertex>
	#include <clipping_planes_vertex>
	vHighPrecisionZW = gl_Position.zw;
}`,TS=`#if DEPTH_PACKING == 3200
	uniform float opacity;
#endif
#include <common>
#include <packing>
#include <uv_pars_fragment>
#include <map_pars_fragment>
#include <alphamap_pars_fragment>
#include <alphatest_pars_fragment>
#include <alphahash_pars_fragment>
#include <logdepthbuf_pars_fragment>
#include <clipping_planes_pars_fragment>
varying vec2 vHighPrecisionZW;
void main() {
	vec4 diffuseColor = vec4( 1.0 );
	#include <clipping_planes_fragment>
	#if DEPTH_PACKING == 3200
		diffuseColor.a = opacity;
	#endif
	#include <map_fragment>
	#include <alphamap_fragment>
	#include <alphatest_fragment>
	#include <alphahash_fragment>
	#include <logdepthbuf_fragment>
	#ifdef USE_REVERSED_DEPTH_BUFFER
		float fragCoordZ = vHighPrecisionZW[ 0 ] / vHighPrecisionZW[ 1 ];
	#else
		float fragCoordZ = 0.5 * vHighPrecisionZW[ 0 ] / vHighPrecisionZW[ 1 ] + 0.5;
	#endif
	#if DEPTH_PACKING == 3200
		gl_FragColor = vec4( vec3( 1.0 - fragCoordZ ), opacity );
	#elif DEPTH_PACKING == 3201
		gl_FragColor = packDepthToRGBA( fragCoordZ );
	#elif DEPTH_PACKING == 3202
		gl_FragColor = vec4( packDepthToRGB( fragCoordZ ), 1.0 );
	#elif DEPTH_PACKING == 3203
		gl_FragColor = vec4( packDepthToRG( fragCoordZ ), 0.0, 1.0 );
	#endif
}`,AS=`#define DISTANCE
varying vec3 vWorldPosition;
#include <common>
#include <batching_pars_vertex>
#include <uv_pars_vertex>
#include <displacementmap_pars_vertex>
#include <morphtarget_pars_vertex>
#include <skinning_pars_vertex>
#include <clipping_planes_pars_vertex>
void main() {
	#include <uv_vertex>
	#include <batching_vertex>
	#include <skinbase_vertex>
	#include <morphinstance_vertex>
	#ifdef USE_DISPLACEMENTMAP
		#include <beginnormal_vertex>
		#include <morphnormal_vertex>
		#include <skinnormal_vertex>
	#endif
	#include <begin_vertex>
	#include <morphtarget_vertex>
	#include <skinning_vertex>
	#include <displacementmap_vertex>
	#include <project_vertex>
	#include <worldpos_vertex>
	#include <clipping_planes_vertex>
	vWorldPosition = worldPosition.xyz;
}`,RS=`#define DISTANCE
uniform vec3 referencePosition;
uniform float nearDistance;
uniform float farDistance;
varying vec3 vWorldPosition;
#include <common>
#include <uv_pars_fragment>
#include <map_pars_fragment>
#include <alphamap_pars_fragment>
#include <alphatest_pars_fragment>
#include <alphahash_pars_fragment>
#include <clipping_planes_pars_fragment>
void main() {
	vec4 diffuseColor = vec4( 1.0 );
	#include <clipping_planes_fragment>
	#include <map_fragment>
	#include <alphamap_fragment>
	#include <alphatest_fragment>
	#include <alphahash_fragment>
	float dist = length( vWorldPosition - referencePosition );
	dist = ( dist - nearDistance ) / ( farDistance - nearDistance );
	dist = saturate( dist );
	gl_FragColor = vec4( dist, 0.0, 0.0, 1.0 );
}`,CS=`varying vec3 vWorldDirection;
#include <common>
void main() {
	vWorldDirection = transformDirection( position, modelMatrix );
	#include <begin_vertex>
	#include <project_vertex>
}`,PS=`uniform sampler2D tEquirect;
varying vec3 vWorldDirection;
#include <common>
void main() {
	vec3 direction = normalize( vWorldDirection );
	vec2 sampleUV = equirectUv( direction );
	gl_FragColor = texture2D( tEquirect, sampleUV );
	#include <tonemapping_fragment>
	#include <colorspace_fragment>
}`,IS=`uniform float scale;
attribute float lineDistance;
varying float vLineDistance;
#include <common>
#include <uv_pars_vertex>
#include <color_pars_vertex>
#include <fog_pars_vertex>
#include <morphtarget_pars_vertex>
#include <logdepthbuf_pars_vertex>
#include <clipping_planes_pars_vertex>
void main() {
	vLineDistance = scale * lineDistance;
	#include <uv_vertex>
	#include <color_vertex>
	#include <morphinstance_vertex>
	#include <morphcolor_vertex>
	#include <begin_vertex>
	#include <morphtarget_vertex>
	#include <project_vertex>
	#include <logdepthbuf_vertex>
	#include <clipping_planes_vertex>
	#include <fog_vertex>
}`,LS=`uniform vec3 diffuse;
uniform float opacity;
uniform float dashSize;
uniform float totalSize;
varying float vLineDistance;
#include <common>
#include <color_pars_fragment>
#include <uv_pars_fragment>
#include <map_pars_fragment>
#include <fog_pars_fragment>
#include <logdepthbuf_pars_fragment>
#include <clipping_planes_pars_fragment>
void main() {
	vec4 diffuseColor = vec4( diffuse, opacity );
	#include <clipping_planes_fragment>
	if ( mod( vLineDistance, totalSize ) > dashSize ) {
		discard;
	}
	vec3 outgoingLight = vec3( 0.0 );
	#include <logdepthbuf_fragment>
	#include <map_fragment>
	#include <color_fragment>
	outgoingLight = diffuseColor.rgb;
	#include <opaque_fragment>
	#include <tonemapping_fragment>
	#include <colorspace_fragment>
	#include <fog_fragment>
	#include <premultiplied_alpha_fragment>
}`,DS=`#include <common>
#include <batching_pars_vertex>
#include <uv_pars_vertex>
#include <envmap_pars_vertex>
#include <color_pars_vertex>
#include <fog_pars_vertex>
#include <morphtarget_pars_vertex>
#include <skinning_pars_vertex>
#include <logdepthbuf_pars_vertex>
#include <clipping_planes_pars_vertex>
void main() {
	#include <uv_vertex>
	#include <color_vertex>
	#include <morphinstance_vertex>
	#include <morphcolor_vertex>
	#include <batching_vertex>
	#if defined ( USE_ENVMAP ) || defined ( USE_SKINNING )
		#include <beginnormal_vertex>
		#include <morphnormal_vertex>
		#include <skinbase_vertex>
		#include <skinnormal_vertex>
		#include <defaultnormal_vertex>
	#endif
	#include <begin_vertex>
	#include <morphtarget_vertex>
	#include <skinning_vertex>
	#include <project_vertex>
	#include <logdepthbuf_vertex>
	#include <clipping_planes_vertex>
	#include <worldpos_vertex>
	#include <envmap_vertex>
	#include <fog_vertex>
}`,NS=`uniform vec3 diffuse;
uniform float opacity;
#ifndef FLAT_SHADED
	varying vec3 vNormal;
#endif
#include <common>
#include <dithering_pars_fragment>
#include <color_pars_fragment>
#include <uv_pars_fragment>
#include <map_pars_fragment>
#include <alphamap_pars_fragment>
#include <alphatest_pars_fragment>
#include <alphahash_pars_fragment>
#include <aomap_pars_fragment>
#include <lightmap_pars_fragment>
#include <envmap_common_pars_fragment>
#include <envmap_pars_fragment>
#include <fog_pars_fragment>
#include <specularmap_pars_fragment>
#include <logdepthbuf_pars_fragment>
#include <clipping_planes_pars_fragment>
void main() {
	vec4 diffuseColor = vec4( diffuse, opacity );
	#include <clipping_planes_fragment>
	#include <logdepthbuf_fragment>
	#include <map_fragment>
	#include <color_fragment>
	#include <alphamap_fragment>
	#include <alphatest_fragment>
	#include <alphahash_fragment>
	#include <specularmap_fragment>
	ReflectedLight reflectedLight = ReflectedLight( vec3( 0.0 ), vec3( 0.0 ), vec3( 0.0 ), vec3( 0.0 ) );
	#ifdef USE_LIGHTMAP
		vec4 lightMapTexel = texture2D( lightMap, vLightMapUv );
		reflectedLight.indirectDiffuse += lightMapTexel.rgb * lightMapIntensity * RECIPROCAL_PI;
	#else
		reflectedLight.indirectDiffuse += vec3( 1.0 );
	#endif
	#include <aomap_fragment>
	reflectedLight.indirectDiffuse *= diffuseColor.rgb;
	vec3 outgoingLight = reflectedLight.indirectDiffuse;
	#include <envmap_fragment>
	#include <opaque_fragment>
	#include <tonemapping_fragment>
	#include <colorspace_fragment>
	#include <fog_fragment>
	#include <premultiplied_alpha_fragment>
	#include <dithering_fragment>
}`,OS=`#define LAMBERT
varying vec3 vViewPosition;
#include <common>
#include <batching_pars_vertex>
#include <uv_pars_vertex>
#include <displacementmap_pars_vertex>
#include <envmap_pars_vertex>
#include <color_pars_vertex>
#include <fog_pars_vertex>
#include <normal_pars_vertex>
#include <morphtarget_pars_vertex>
#include <skinning_pars_vertex>
#include <shadowmap_pars_vertex>
#include <logdepthbuf_pars_vertex>
#include <clipping_planes_pars_vertex>
void main() {
	#include <uv_vertex>
	#include <color_vertex>
	#include <morphinstance_vertex>
	#include <morphcolor_vertex>
	#include <batching_vertex>
	#include <beginnormal_vertex>
	#include <morphnormal_vertex>
	#include <skinbase_vertex>
	#include <skinnormal_vertex>
	#include <defaultnormal_vertex>
	#include <normal_vertex>
	#include <begin_vertex>
	#include <morphtarget_vertex>
	#include <skinning_vertex>
	#include <displacementmap_vertex>
	#include <project_vertex>
	#include <logdepthbuf_vertex>
	#include <clipping_planes_vertex>
	vViewPosition = - mvPosition.xyz;
	#include <worldpos_vertex>
	#include <envmap_vertex>
	#include <shadowmap_vertex>
	#include <fog_vertex>
}`,US=`#define LAMBERT
uniform vec3 diffuse;
uniform vec3 emissive;
uniform float opacity;
#include <common>
#include <dithering_pars_fragment>
#include <color_pars_fragment>
#include <uv_pars_fragment>
#include <map_pars_fragment>
#include <alphamap_pars_fragment>
#include <alphatest_pars_fragment>
#include <alphahash_pars_fragment>
#include <aomap_pars_fragment>
#include <lightmap_pars_fragment>
#include <emissivemap_pars_fragment>
#include <envmap_common_pars_fragment>
#include <envmap_pars_fragment>
#include <envmap_physical_pars_fragment>
#include <fog_pars_fragment>
#include <bsdfs>
#include <lights_pars_begin>
#include <normal_pars_fragment>
#include <lights_lambert_pars_fragment>
#include <shadowmap_pars_fragment>
#include <bumpmap_pars_fragment>
#include <normalmap_pars_fragment>
#include <specularmap_pars_fragment>
#include <logdepthbuf_pars_fragment>
#include <clipping_planes_pars_fragment>
void main() {
	vec4 diffuseColor = vec4( diffuse, opacity );
	#include <clipping_planes_fragment>
	ReflectedLight reflectedLight = ReflectedLight( vec3( 0.0 ), vec3( 0.0 ), vec3( 0.0 ), vec3( 0.0 ) );
	vec3 totalEmissiveRadiance = emissive;
	#include <logdepthbuf_fragment>
	#include <map_fragment>
	#include <color_fragment>
	#include <alphamap_fragment>
	#include <alphatest_fragment>
	#include <alphahash_fragment>
	#include <specularmap_fragment>
	#include <normal_fragment_begin>
	#include <normal_fragment_maps>
	#include <emissivemap_fragment>
	#include <lights_lambert_fragment>
	#include <lights_fragment_begin>
	#include <lights_fragment_maps>
	#include <lights_fragment_end>
	#include <aomap_fragment>
	vec3 outgoingLight = reflectedLight.directDiffuse + reflectedLight.indirectDiffuse + totalEmissiveRadiance;
	#include <envmap_fragment>
	#include <opaque_fragment>
	#include <tonemapping_fragment>
	#include <colorspace_fragment>
	#include <fog_fragment>
	#include <premultiplied_alpha_fragment>
	#include <dithering_fragment>
}`,FS=`#define MATCAP
varying vec3 vViewPosition;
#include <common>
#include <batching_pars_vertex>
#include <uv_pars_vertex>
#include <color_pars_vertex>
#include <displacementmap_pars_vertex>
#include <fog_pars_vertex>
#include <normal_pars_vertex>
#include <morphtarget_pars_vertex>
#include <skinning_pars_vertex>
#include <logdepthbuf_pars_vertex>
#include <clipping_planes_pars_vertex>
void main() {
	#include <uv_vertex>
	#include <color_vertex>
	#include <morphinstance_vertex>
	#include <morphcolor_vertex>
	#include <batching_vertex>
	#include <beginnormal_vertex>
	#include <morphnormal_vertex>
	#include <skinbase_vertex>
	#include <skinnormal_vertex>
	#include <defaultnormal_vertex>
	#include <normal_vertex>
	#include <begin_vertex>
	#include <morphtarget_vertex>
	#include <skinning_vertex>
	#include <displacementmap_vertex>
	#include <project_vertex>
	#include <logdepthbuf_vertex>
	#include <clipping_planes_vertex>
	#include <fog_vertex>
	vViewPosition = - mvPosition.xyz;
}`,kS=`#define MATCAP
uniform vec3 diffuse;
uniform float opacity;
uniform sampler2D matcap;
varying vec3 vViewPosition;
#include <common>
#include <dithering_pars_fragment>
#include <color_pars_fragment>
#include <uv_pars_fragment>
#include <map_pars_fragment>
#include <alphamap_pars_fragment>
#include <alphatest_pars_fragment>
#include <alphahash_pars_fragment>
#include <fog_pars_fragment>
#include <normal_pars_fragment>
#include <bumpmap_pars_fragment>
#include <normalmap_pars_fragment>
#include <logdepthbuf_pars_fragment>
#include <clipping_planes_pars_fragment>
void main() {
	vec4 diffuseColor = vec4( diffuse, opacity );
	#include <clipping_planes_fragment>
	#include <logdepthbuf_fragment>
	#include <map_fragment>
	#include <color_fragment>
	#include <alphamap_fragment>
	#include <alphatest_fragment>
	#include <alphahash_fragment>
	#include <normal_fragment_begin>
	#include <normal_fragment_maps>
	vec3 viewDir = normalize( vViewPosition );
	vec3 x = normalize( vec3( viewDir.z, 0.0, - viewDir.x ) );
	vec3 y = cross( viewDir, x );
	vec2 uv = vec2( dot( x, normal ), dot( y, normal ) ) * 0.495 + 0.5;
	#ifdef USE_MATCAP
		vec4 matcapColor = texture2D( matcap, uv );
	#else
		vec4 matcapColor = vec4( vec3( mix( 0.2, 0.8, uv.y ) ), 1.0 );
	#endif
	vec3 outgoingLight = diffuseColor.rgb * matcapColor.rgb;
	#include <opaque_fragment>
	#include <tonemapping_fragment>
	#include <colorspace_fragment>
	#include <fog_fragment>
	#include <premultiplied_alpha_fragment>
	#include <dithering_fragment>
}`,BS=`#define NORMAL
#if defined( FLAT_SHADED ) || defined( USE_BUMPMAP ) || defined( USE_NORMALMAP_TANGENTSPACE )
	varying vec3 vViewPosition;
#endif
#include <common>
#include <batching_pars_vertex>
#include <uv_pars_vertex>
#include <displacementmap_pars_vertex>
#include <normal_pars_vertex>
#include <morphtarget_pars_vertex>
#include <skinning_pars_vertex>
#include <logdepthbuf_pars_vertex>
#include <clipping_planes_pars_vertex>
void main() {
	#include <uv_vertex>
	#include <batching_vertex>
	#include <beginnormal_vertex>
	#include <morphinstance_vertex>
	#include <morphnormal_vertex>
	#include <skinbase_vertex>
	#include <skinnormal_vertex>
	#include <defaultnormal_vertex>
	#include <normal_vertex>
	#include <begin_vertex>
	#include <morphtarget_vertex>
	#include <skinning_vertex>
	#include <displacementmap_vertex>
	#include <project_vertex>
	#include <logdepthbuf_vertex>
	#include <clipping_planes_vertex>
#if defined( FLAT_SHADED ) || defined( USE_BUMPMAP ) || defined( USE_NORMALMAP_TANGENTSPACE )
	vViewPosition = - mvPosition.xyz;
#endif
}`,zS=`#define NORMAL
uniform float opacity;
#if defined( FLAT_SHADED ) || defined( USE_BUMPMAP ) || defined( USE_NORMALMAP_TANGENTSPACE )
	varying vec3 vViewPosition;
#endif
#include <uv_pars_fragment>
#include <normal_pars_fragment>
#include <bumpmap_pars_fragment>
#include <normalmap_pars_fragment>
#include <logdepthbuf_pars_fragment>
#include <clipping_planes_pars_fragment>
void main() {
	vec4 diffuseColor = vec4( 0.0, 0.0, 0.0, opacity );
	#include <clipping_planes_fragment>
	#include <logdepthbuf_fragment>
	#include <normal_fragment_begin>
	#include <normal_fragment_maps>
	gl_FragColor = vec4( normalize( normal ) * 0.5 + 0.5, diffuseColor.a );
	#ifdef OPAQUE
		gl_FragColor.a = 1.0;
	#endif
}`,HS=`#define PHONG
varying vec3 vViewPosition;
#include <common>
#include <batching_pars_vertex>
#include <uv_pars_vertex>
#include <displacementmap_pars_vertex>
#include <envmap_pars_vertex>
#include <color_pars_vertex>
#include <fog_pars_vertex>
#include <normal_pars_vertex>
#include <morphtarget_pars_vertex>
#include <skinning_pars_vertex>
#include <shadowmap_pars_vertex>
#include <logdepthbuf_pars_vertex>
#include <clipping_planes_pars_vertex>
void main() {
	#include <uv_vertex>
	#include <color_vertex>
	#include <morphcolor_vertex>
	#include <batching_vertex>
	#include <beginnormal_vertex>
	#include <morphinstance_vertex>
	#include <morphnormal_vertex>
	#include <skinbase_vertex>
	#include <skinnormal_vertex>
	#include <defaultnormal_vertex>
	#include <normal_vertex>
	#include <begin_vertex>
	#include <morphtarget_vertex>
	#include <skinning_vertex>
	#include <displacementmap_vertex>
	#include <project_vertex>
	#include <logdepthbuf_vertex>
	#include <clipping_planes_vertex>
	vViewPosition = - mvPosition.xyz;
	#include <worldpos_vertex>
	#include <envmap_vertex>
	#include <shadowmap_vertex>
	#include <fog_vertex>
}`,VS=`#define PHONG
uniform vec3 diffuse;
uniform vec3 emissive;
uniform vec3 specular;
uniform float shininess;
uniform float opacity;
#include <common>
#include <dithering_pars_fragment>
#include <color_pars_fragment>
#include <uv_pars_fragment>
#include <map_pars_fragment>
#include <alphamap_pars_fragment>
#include <alphatest_pars_fragment>
#include <alphahash_pars_fragment>
#include <aomap_pars_fragment>
#include <lightmap_pars_fragment>
#include <emissivemap_pars_fragment>
#include <envmap_common_pars_fragment>
#include <envmap_pars_fragment>
#include <envmap_physical_pars_fragment>
#include <fog_pars_fragment>
#include <bsdfs>
#include <lights_pars_begin>
#include <normal_pars_fragment>
#include <lights_phong_pars_fragment>
#include <shadowmap_pars_fragment>
#include <bumpmap_pars_fragment>
#include <normalmap_pars_fragment>
#include <specularmap_pars_fragment>
#include <logdepthbuf_pars_fragment>
#include <clipping_planes_pars_fragment>
void main() {
	vec4 diffuseColor = vec4( diffuse, opacity );
	#include <clipping_planes_fragment>
	ReflectedLight reflectedLight = ReflectedLight( vec3( 0.0 ), vec3( 0.0 ), vec3( 0.0 ), vec3( 0.0 ) );
	vec3 totalEmissiveRadiance = emissive;
	#include <logdepthbuf_fragment>
	#include <map_fragment>
	#include <color_fragment>
	#include <alphamap_fragment>
	#include <alphatest_fragment>
	#include <alphahash_fragment>
	#include <specularmap_fragment>
	#include <normal_fragment_begin>
	#include <normal_fragment_maps>
	#include <emissivemap_fragment>
	#include <lights_phong_fragment>
	#include <lights_fragment_begin>
	#include <lights_fragment_maps>
	#include <lights_fragment_end>
	#include <aomap_fragment>
	vec3 outgoingLight = reflectedLight.directDiffuse + reflectedLight.indirectDiffuse + reflectedLight.directSpecular + reflectedLight.indirectSpecular + totalEmissiveRadiance;
	#include <envmap_fragment>
	#include <opaque_fragment>
	#include <tonemapping_fragment>
	#include <colorspace_fragment>
	#include <fog_fragment>
	#include <premultiplied_alpha_fragment>
	#include <dithering_fragment>
}`,GS=`#define STANDARD
varying vec3 vViewPosition;
#ifdef USE_TRANSMISSION
	varying vec3 vWorldPosition;
#endif
#include <common>
#include <batching_pars_vertex>
#include <uv_pars_vertex>
#include <displacementmap_pars_vertex>
#include <color_pars_vertex>
#include <fog_pars_vertex>
#include <normal_pars_vertex>
#include <morphtarget_pars_vertex>
#include <skinning_pars_vertex>
#include <shadowmap_pars_vertex>
#include <logdepthbuf_pars_vertex>
#include <clipping_planes_pars_vertex>
void main() {
	#include <uv_vertex>
	#include <color_vertex>
	#include <morphinstance_vertex>
	#include <morphcolor_vertex>
	#include <batching_vertex>
	#include <beginnormal_vertex>
	#include <morphnormal_vertex>
	#include <skinbase_vertex>
	#include <skinnormal_vertex>
	#include <defaultnormal_vertex>
	#include <normal_vertex>
	#include <begin_vertex>
	#include <morphtarget_vertex>
	#include <skinning_vertex>
	#include <displacementmap_vertex>
	#include <project_vertex>
	#include <logdepthbuf_vertex>
	#include <clipping_planes_vertex>
	vViewPosition = - mvPosition.xyz;
	#include <worldpos_vertex>
	#include <shadowmap_vertex>
	#include <fog_vertex>
#ifdef USE_TRANSMISSION
	vWorldPosition = worldPosition.xyz;
#endif
}`,WS=`#define STANDARD
#ifdef PHYSICAL
	#define IOR
	#define USE_SPECULAR
#endif
uniform vec3 diffuse;
uniform vec3 emissive;
uniform float roughness;
uniform float metalness;
uniform float opacity;
#ifdef IOR
	uniform float ior;
#endif
#ifdef USE_SPECULAR
	uniform float specularIntensity;
	uniform vec3 specularColor;
	#ifdef USE_SPECULAR_COLORMAP
		uniform sampler2D specularColorMap;
	#endif
	#ifdef USE_SPECULAR_INTENSITYMAP
		uniform sampler2D specularIntensityMap;
	#endif
#endif
#ifdef USE_CLEARCOAT
	uniform float clearcoat;
	uniform float clearcoatRoughness;
#endif
#ifdef USE_DIFFUSE_ROUGHNESS
	uniform float diffuseRoughness;
	#ifdef USE_DIFFUSE_ROUGHNESSMAP
		uniform sampler2D diffuseRoughnessMap;
	#endif
#endif
#ifdef USE_DISPERSION
	uniform float dispersion;
#endif
#ifdef USE_RETROREFLECTION
	uniform float retroreflectivity;
#endif
#ifdef USE_IRIDESCENCE
	uniform float iridescence;
	uniform float iridescenceIOR;
	uniform float iridescenceThicknessMinimum;
	uniform float iridescenceThicknessMaximum;
#endif
#ifdef USE_SHEEN
	uniform vec3 sheenColor;
	uniform float sheenRoughness;
	#ifdef USE_SHEEN_COLORMAP
		uniform sampler2D sheenColorMap;
	#endif
	#ifdef USE_SHEEN_ROUGHNESSMAP
		uniform sampler2D sheenRoughnessMap;
	#endif
#endif
#ifdef USE_ANISOTROPY
	uniform vec2 anisotropyVector;
	#ifdef USE_ANISOTROPYMAP
		uniform sampler2D anisotropyMap;
	#endif
#endif
varying vec3 vViewPosition;
#include <common>
#include <dithering_pars_fragment>
#include <color_pars_fragment>
#include <uv_pars_fragment>
#include <map_pars_fragment>
#include <alphamap_pars_fragment>
#include <alphatest_pars_fragment>
#include <alphahash_pars_fragment>
#include <aomap_pars_fragment>
#include <lightmap_pars_fragment>
#include <emissivemap_pars_fragment>
#include <iridescence_fragment>
#include <envmap_common_pars_fragment>
#include <envmap_physical_pars_fragment>
#include <fog_pars_fragment>
#include <lights_pars_begin>
#include <normal_pars_fragment>
#include <lights_physical_pars_fragment>
#include <transmission_pars_fragment>
#include <shadowmap_pars_fragment>
#include <bumpmap_pars_fragment>
#include <normalmap_pars_fragment>
#include <clearcoat_pars_fragment>
#include <iridescence_pars_fragment>
#include <roughnessmap_pars_fragment>
#include <metalnessmap_pars_fragment>
#include <logdepthbuf_pars_fragment>
#include <clipping_planes_pars_fragment>
void main() {
	vec4 diffuseColor = vec4( diffuse, opacity );
	#include <clipping_planes_fragment>
	ReflectedLight reflectedLight = ReflectedLight( vec3( 0.0 ), vec3( 0.0 ), vec3( 0.0 ), vec3( 0.0 ) );
	vec3 totalEmissiveRadiance = emissive;
	#include <logdepthbuf_fragment>
	#include <map_fragment>
	#include <color_fragment>
	#include <alphamap_fragment>
	#include <alphatest_fragment>
	#include <alphahash_fragment>
	#include <roughnessmap_fragment>
	#include <metalnessmap_fragment>
	#include <normal_fragment_begin>
	#include <normal_fragment_maps>
	#include <clearcoat_normal_fragment_begin>
	#include <clearcoat_normal_fragment_maps>
	#include <emissivemap_fragment>
	#include <lights_physical_fragment>
	#include <lights_fragment_begin>
	#include <lights_fragment_maps>
	#include <lights_fragment_end>
	#include <aomap_fragment>
	vec3 totalDiffuse = reflectedLight.directDiffuse + reflectedLight.indirectDiffuse;
	vec3 totalSpecular = reflectedLight.directSpecular + reflectedLight.indirectSpecular;
	#include <transmission_fragment>
	vec3 outgoingLight = totalDiffuse + totalSpecular + totalEmissiveRadiance;
	#ifdef USE_SHEEN
 
		outgoingLight = outgoingLight + sheenSpecularDirect + sheenSpecularIndirect;
 
 	#endif
	#ifdef USE_CLEARCOAT
		float dotNVcc = saturate( dot( geometryClearcoatNormal, geometryViewDir ) );
		vec3 Fcc = F_Schlick( material.clearcoatF0, material.clearcoatF90, dotNVcc );
		outgoingLight = outgoingLight * ( 1.0 - material.clearcoat * Fcc ) + ( clearcoatSpecularDirect + clearcoatSpecularIndirect ) * material.clearcoat;
	#endif
	#include <opaque_fragment>
	#include <tonemapping_fragment>
	#include <colorspace_fragment>
	#include <fog_fragment>
	#include <premultiplied_alpha_fragment>
	#include <dithering_fragment>
}`,XS=`#define TOON
varying vec3 vViewPosition;
#include <common>
#include <batching_pars_vertex>
#include <uv_pars_vertex>
#include <displacementmap_pars_vertex>
#include <color_pars_vertex>
#include <fog_pars_vertex>
#include <normal_pars_vertex>
#include <morphtarget_pars_vertex>
#include <skinning_pars_vertex>
#include <shadowmap_pars_vertex>
#include <logdepthbuf_pars_vertex>
#include <clipping_planes_pars_vertex>
void main() {
	#include <uv_vertex>
	#include <color_vertex>
	#include <morphinstance_vertex>
	#include <morphcolor_vertex>
	#include <batching_vertex>
	#include <beginnormal_vertex>
	#include <morphnormal_vertex>
	#include <skinbase_vertex>
	#include <skinnormal_vertex>
	#include <defaultnormal_vertex>
	#include <normal_vertex>
	#include <begin_vertex>
	#include <morphtarget_vertex>
	#include <skinning_vertex>
	#include <displacementmap_vertex>
	#include <project_vertex>
	#include <logdepthbuf_vertex>
	#include <clipping_planes_vertex>
	vViewPosition = - mvPosition.xyz;
	#include <worldpos_vertex>
	#include <shadowmap_vertex>
	#include <fog_vertex>
}`,qS=`#define TOON
uniform vec3 diffuse;
uniform vec3 emissive;
uniform float opacity;
#include <common>
#include <dithering_pars_fragment>
#include <color_pars_fragment>
#include <uv_pars_fragment>
#include <map_pars_fragment>
#include <alphamap_pars_fragment>
#include <alphatest_pars_fragment>
#include <alphahash_pars_fragment>
#include <aomap_pars_fragment>
#include <lightmap_pars_fragment>
#include <emissivemap_pars_fragment>
#include <gradientmap_pars_fragment>
#include <fog_pars_fragment>
#include <bsdfs>
#include <lights_pars_begin>
#include <normal_pars_fragment>
#include <lights_toon_pars_fragment>
#include <shadowmap_pars_fragment>
#include <bumpmap_pars_fragment>
#include <normalmap_pars_fragment>
#include <logdepthbuf_pars_fragment>
#include <clipping_planes_pars_fragment>
void main() {
	vec4 diffuseColor = vec4( diffuse, opacity );
	#include <clipping_planes_fragment>
	ReflectedLight reflectedLight = ReflectedLight( vec3( 0.0 ), vec3( 0.0 ), vec3( 0.0 ), vec3( 0.0 ) );
	vec3 totalEmissiveRadiance = emissive;
	#include <logdepthbuf_fragment>
	#include <map_fragment>
	#include <color_fragment>
	#include <alphamap_fragment>
	#include <alphatest_fragment>
	#include <alphahash_fragment>
	#include <normal_fragment_begin>
	#include <normal_fragment_maps>
	#include <emissivemap_fragment>
	#include <lights_toon_fragment>
	#include <lights_fragment_begin>
	#include <lights_fragment_maps>
	#include <lights_fragment_end>
	#include <aomap_fragment>
	vec3 outgoingLight = reflectedLight.directDiffuse + reflectedLight.indirectDiffuse + totalEmissiveRadiance;
	#include <opaque_fragment>
	#include <tonemapping_fragment>
	#include <colorspace_fragment>
	#include <fog_fragment>
	#include <premultiplied_alpha_fragment>
	#include <dithering_fragment>
}`,$S=`uniform float size;
uniform float scale;
#include <common>
#include <color_pars_vertex>
#include <fog_pars_vertex>
#include <morphtarget_pars_vertex>
#include <logdepthbuf_pars_vertex>
#include <clipping_planes_pars_vertex>
#ifdef USE_POINTS_UV
	varying vec2 vUv;
	uniform mat3 uvTransform;
#endif
void main() {
	#ifdef USE_POINTS_UV
		vUv = ( uvTransform * vec3( uv, 1 ) ).xy;
	#endif
	#include <color_vertex>
	#include <morphinstance_vertex>
	#include <morphcolor_vertex>
	#include <begin_vertex>
	#include <morphtarget_vertex>
	#include <project_vertex>
	gl_PointSize = size;
	#ifdef USE_SIZEATTENUATION
		bool isPerspective = isPerspectiveMatrix( projectionMatrix );
		if ( isPerspective ) gl_PointSize *= ( scale / - mvPosition.z );
	#endif
	#include <logdepthbuf_vertex>
	#include <clipping_planes_vertex>
	#include <worldpos_vertex>
	#include <fog_vertex>
}`,YS=`uniform vec3 diffuse;
uniform float opacity;
#include <common>
#include <color_pars_fragment>
#include <map_particle_pars_fragment>
#include <alphatest_pars_fragment>
#include <alphahash_pars_fragment>
#include <fog_pars_fragment>
#include <logdepthbuf_pars_fragment>
#include <clipping_planes_pars_fragment>
void main() {
	vec4 diffuseColor = vec4( diffuse, opacity );
	#include <clipping_planes_fragment>
	vec3 outgoingLight = vec3( 0.0 );
	#include <logdepthbuf_fragment>
	#include <map_particle_fragment>
	#include <color_fragment>
	#include <alphatest_fragment>
	#include <alphahash_fragment>
	outgoingLight = diffuseColor.rgb;
	#include <opaque_fragment>
	#include <tonemapping_fragment>
	#include <colorspace_fragment>
	#include <fog_fragment>
	#include <premultiplied_alpha_fragment>
}`,ZS=`#include <common>
#include <batching_pars_vertex>
#include <fog_pars_vertex>
#include <morphtarget_pars_vertex>
#include <skinning_pars_vertex>
#include <logdepthbuf_pars_vertex>
#include <shadowmap_pars_vertex>
void main() {
	#include <batching_vertex>
	#include <beginnormal_vertex>
	#include <morphinstance_vertex>
	#include <morphnormal_vertex>
	#include <skinbase_vertex>
	#include <skinnormal_vertex>
	#include <defaultnormal_vertex>
	#include <begin_vertex>
	#include <morphtarget_vertex>
	#include <skinning_vertex>
	#include <project_vertex>
	#include <logdepthbuf_vertex>
	#include <worldpos_vertex>
	#include <shadowmap_vertex>
	#include <fog_vertex>
}`,KS=`uniform vec3 color;
uniform float opacity;
#include <common>
#include <fog_pars_fragment>
#include <bsdfs>
#include <lights_pars_begin>
#include <logdepthbuf_pars_fragment>
#include <shadowmap_pars_fragment>
#include <shadowmask_pars_fragment>
void main() {
	#include <logdepthbuf_fragment>
	gl_FragColor = vec4( color, opacity * ( 1.0 - getShadowMask() ) );
	#include <tonemapping_fragment>
	#include <colorspace_fragment>
	#include <fog_fragment>
	#include <premultiplied_alpha_fragment>
}`,JS=`uniform float rotation;
uniform vec2 center;
#include <common>
#include <uv_pars_vertex>
#include <fog_pars_vertex>
#include <logdepthbuf_pars_vertex>
#include <clipping_planes_pars_vertex>
void main() {
	#include <uv_vertex>
	vec4 mvPosition = modelViewMatrix[ 3 ];
	vec2 scale = vec2( length( modelMatrix[ 0 ].xyz ), length( modelMatrix[ 1 ].xyz ) );
	#ifndef USE_SIZEATTENUATION
		bool isPerspective = isPerspectiveMatrix( projectionMatrix );
		if ( isPerspective ) scale *= - mvPosition.z;
	#endif
	vec2 alignedPosition = ( position.xy - ( center - vec2( 0.5 ) ) ) * scale;
	vec2 rotatedPosition;
	rotatedPosition.x = cos( rotation ) * alignedPosition.x - sin( rotation ) * alignedPosition.y;
	rotatedPosition.y = sin( rotation ) * alignedPosition.x + cos( rotation ) * alignedPosition.y;
	mvPosition.xy += rotatedPosition;
	gl_Position = projectionMatrix * mvPosition;
	#include <logdepthbuf_vertex>
	#include <clipping_planes_vertex>
	#include <fog_vertex>
}`,jS=`uniform vec3 diffuse;
uniform float opacity;
#include <common>
#include <uv_pars_fragment>
#include <map_pars_fragment>
#include <alphamap_pars_fragment>
#include <alphatest_pars_fragment>
#include <alphahash_pars_fragment>
#include <fog_pars_fragment>
#include <logdepthbuf_pars_fragment>
#include <clipping_planes_pars_fragment>
void main() {
	vec4 diffuseColor = vec4( diffuse, opacity );
	#include <clipping_planes_fragment>
	vec3 outgoingLight = vec3( 0.0 );
	#include <logdepthbuf_fragment>
	#include <map_fragment>
	#include <alphamap_fragment>
	#include <alphatest_fragment>
	#include <alphahash_fragment>
	outgoingLight = diffuseColor.rgb;
	#include <opaque_fragment>
	#include <tonemapping_fragment>
	#include <colorspace_fragment>
	#include <fog_fragment>
}`,Bt={alphahash_fragment:vy,alphahash_pars_fragment:Sy,alphamap_fragment:My,alphamap_pars_fragment:by,alphatest_fragment:wy,alphatest_pars_fragment:Ey,aomap_fragment:Ty,aomap_pars_fragment:Ay,batching_pars_vertex:Ry,batching_vertex:Cy,begin_vertex:Py,beginnormal_vertex:Iy,bsdfs:Ly,iridescence_fragment:Dy,bumpmap_pars_fragment:Ny,clipping_planes_fragment:Oy,clipping_planes_pars_fragment:Uy,clipping_planes_pars_vertex:Fy,clipping_planes_vertex:ky,color_fragment:By,color_pars_fragment:zy,color_pars_vertex:Hy,color_vertex:Vy,common:Gy,defaultnormal_vertex:Wy,displacementmap_pars_vertex:Xy,displacementmap_vertex:qy,emissivemap_fragment:$y,emissivemap_pars_fragment:Yy,colorspace_fragment:Zy,colorspace_pars_fragment:Ky,envmap_fragment:Jy,envmap_common_pars_fragment:jy,envmap_pars_fragment:Qy,envmap_pars_vertex:tv,envmap_physical_pars_fragment:uv,envmap_vertex:ev,fog_vertex:iv,fog_pars_vertex:nv,fog_fragment:sv,fog_pars_fragment:rv,gradientmap_pars_fragment:av,lightmap_pars_fragment:ov,lights_lambert_fragment:lv,lights_lambert_pars_fragment:cv,lights_pars_begin:hv,lights_toon_fragment:dv,lights_toon_pars_fragment:fv,lights_phong_fragment:pv,lights_phong_pars_fragment:mv,lights_physical_fragment:gv,lights_physical_pars_fragment:_v,lights_fragment_begin:xv,lights_fragment_maps:yv,lights_fragment_end:vv,lightprobes_pars_fragment:Sv,logdepthbuf_fragment:Mv,logdepthbuf_pars_fragment:bv,logdepthbuf_pars_vertex:wv,logdepthbuf_vertex:Ev,map_fragment:Tv,map_pars_fragment:Av,map_particle_fragment:Rv,map_particle_pars_fragment:Cv,metalnessmap_fragment:Pv,metalnessmap_pars_fragment:Iv,morphinstance_vertex:Lv,morphcolor_vertex:Dv,morphnormal_vertex:Nv,morphtarget_pars_vertex:Ov,morphtarget_vertex:Uv,normal_fragment_begin:Fv,normal_fragment_maps:kv,normal_pars_fragment:Bv,normal_pars_vertex:zv,normal_vertex:Hv,normalmap_pars_fragment:Vv,clearcoat_normal_fragment_begin:Gv,clearcoat_normal_fragment_maps:Wv,clearcoat_pars_fragment:Xv,iridescence_pars_fragment:qv,opaque_fragment:$v,packing:Yv,premultiplied_alpha_fragment:Zv,project_vertex:Kv,dithering_fragment:Jv,dithering_pars_fragment:jv,roughnessmap_fragment:Qv,roughnessmap_pars_fragment:tS,shadowmap_pars_fragment:eS,shadowmap_pars_vertex:iS,shadowmap_vertex:nS,shadowmask_pars_fragment:sS,skinbase_vertex:rS,skinning_pars_vertex:aS,skinning_vertex:oS,skinnormal_vertex:lS,specularmap_fragment:cS,specularmap_pars_fragment:hS,tonemapping_fragment:uS,tonemapping_pars_fragment:dS,transmission_fragment:fS,transmission_pars_fragment:pS,uv_pars_fragment:mS,uv_pars_vertex:gS,uv_vertex:_S,worldpos_vertex:xS,background_vert:yS,background_frag:vS,backgroundCube_vert:SS,backgroundCube_frag:MS,cube_vert:bS,cube_frag:wS,depth_vert:ES,depth_frag:TS,distance_vert:AS,distance_frag:RS,equirect_vert:CS,equirect_frag:PS,linedashed_vert:IS,linedashed_frag:LS,meshbasic_vert:DS,meshbasic_frag:NS,meshlambert_vert:OS,meshlambert_frag:US,meshmatcap_vert:FS,meshmatcap_frag:kS,meshnormal_vert:BS,meshnormal_frag:zS,meshphong_vert:HS,meshphong_frag:VS,meshphysical_vert:GS,meshphysical_frag:WS,meshtoon_vert:XS,meshtoon_frag:qS,points_vert:$S,points_frag:YS,shadow_vert:ZS,shadow_frag:KS,sprite_vert:JS,sprite_frag:jS},ft={common:{diffuse:{value:new Ht(16777215)},opacity:{value:1},map:{value:null},mapTransform:{value:new Pt},alphaMap:{value:null},alphaMapTransform:{value:new Pt},alphaTest:{value:0}},specularmap:{specularMap:{value:null},specularMapTransform:{value:new Pt}},envmap:{envMap:{value:null},envMapRotation:{value:new Pt},reflectivity:{value:1},ior:{value:1.5},refractionRatio:{value:.98},dfgLUT:{value:null}},aomap:{aoMap:{value:null},aoMapIntensity:{value:1},aoMapTransform:{value:new Pt}},lightmap:{lightMap:{value:null},lightMapIntensity:{value:1},lightMapTransform:{value:new Pt}},bumpmap:{bumpMap:{value:null},bumpMapTransform:{value:new Pt},bumpScale:{value:1}},normalmap:{normalMap:{value:null},normalMapTransform:{value:new Pt},normalScale:{value:new Ot(1,1)}},displacementmap:{displacementMap:{value:null},displacementMapTransform:{value:new Pt},displacementScale:{value:1},displacementBias:{value:0}},emissivemap:{emissiveMap:{value:null},emissiveMapTransform:{value:new Pt}},metalnessmap:{metalnessMap:{value:null},metalnessMapTransform:{value:new Pt}},roughnessmap:{roughnessMap:{value:null},roughnessMapTransform:{value:new Pt}},gradientmap:{gradientMap:{value:null}},fog:{fogDensity:{value:25e-5},fogNear:{value:1},fogFar:{value:2e3},fogColor:{value:new Ht(16777215)}},lights:{ambientLightColor:{value:[]},lightProbe:{value:[]},sunLights:{value:[],properties:{direction:{},color:{}}},sunLightShadows:{value:[],properties:{shadowIntensity:1,shadowBias:{},shadowNormalBias:{},shadowRadius:{},shadowMapSize:{}}},sunShadowMatrix:{value:[]},sunShadowCascade:{value:[]},directionalLights:{value:[],properties:{direction:{},color:{}}},directionalLightShadows:{value:[],properties:{shadowIntensity:1,shadowBias:{},shadowNormalBias:{},shadowRadius:{},shadowMapSize:{}}},directionalShadowMatrix:{value:[]},spotLights:{value:[],properties:{color:{},position:{},direction:{},distance:{},coneCos:{},penumbraCos:{},decay:{}}},spotLightShadows:{value:[],properties:{shadowIntensity:1,shadowBias:{},shadowNormalBias:{},shadowRadius:{},shadowMapSize:{}}},spotLightMap:{value:[]},spotLightMatrix:{value:[]},pointLights:{value:[],properties:{color:{},position:{},decay:{},distance:{}}},pointLightShadows:{value:[],properties:{shadowIntensity:1,shadowBias:{},shadowNormalBias:{},shadowRadius:{},shadowMapSize:{},shadowCameraNear:{},shadowCameraFar:{}}},pointShadowMatrix:{value:[]},hemisphereLights:{value:[],properties:{direction:{},skyColor:{},groundColor:{}}},rectAreaLights:{value:[],properties:{color:{},position:{},width:{},height:{}}},ltc_1:{value:null},ltc_2:{value:null},probesSH:{value:[]},probesMin:{value:[]},probesMax:{value:[]},probesResolution:{value:[]}},points:{diffuse:{value:new Ht(16777215)},opacity:{value:1},size:{value:1},scale:{value:1},map:{value:null},alphaMap:{value:null},alphaMapTransform:{value:new Pt},alphaTest:{value:0},uvTransform:{value:new Pt}},sprite:{diffuse:{value:new Ht(16777215)},opacity:{value:1},center:{value:new Ot(.5,.5)},rotation:{value:0},map:{value:null},mapTransform:{value:new Pt},alphaMap:{value:null},alphaMapTransform:{value:new Pt},alphaTest:{value:0}}},Ui={basic:{uniforms:ke([ft.common,ft.specularmap,ft.envmap,ft.aomap,ft.lightmap,ft.fog]),vertexShader:Bt.meshbasic_vert,fragmentShader:Bt.meshbasic_frag},lambert:{uniforms:ke([ft.common,ft.specularmap,ft.envmap,ft.aomap,ft.lightmap,ft.emissivemap,ft.bumpmap,ft.normalmap,ft.displacementmap,ft.fog,ft.lights,{emissive:{value:new Ht(0)},envMapIntensity:{value:1}}]),vertexShader:Bt.meshlambert_vert,fragmentShader:Bt.meshlambert_frag},phong:{uniforms:ke([ft.common,ft.specularmap,ft.envmap,ft.aomap,ft.lightmap,ft.emissivemap,ft.bumpmap,ft.normalmap,ft.displacementmap,ft.fog,ft.lights,{emissive:{value:new Ht(0)},specular:{value:new Ht(1118481)},shininess:{value:30},envMapIntensity:{value:1}}]),vertexShader:Bt.meshphong_vert,fragmentShader:Bt.meshphong_frag},standard:{uniforms:ke([ft.common,ft.envmap,ft.aomap,ft.lightmap,ft.emissivemap,ft.bumpmap,ft.normalmap,ft.displacementmap,ft.roughnessmap,ft.metalnessmap,ft.fog,ft.lights,{emissive:{value:new Ht(0)},roughness:{value:1},metalness:{value:0},envMapIntensity:{value:1}}]),vertexShader:Bt.meshphysical_vert,fragmentShader:Bt.meshphysical_frag},toon:{uniforms:ke([ft.common,ft.aomap,ft.lightmap,ft.emissivemap,ft.bumpmap,ft.normalmap,ft.displacementmap,ft.gradientmap,ft.fog,ft.lights,{emissive:{value:new Ht(0)}}]),vertexShader:Bt.meshtoon_vert,fragmentShader:Bt.meshtoon_frag},matcap:{uniforms:ke([ft.common,ft.bumpmap,ft.normalmap,ft.displacementmap,ft.fog,{matcap:{value:null}}]),vertexShader:Bt.meshmatcap_vert,fragmentShader:Bt.meshmatcap_frag},points:{uniforms:ke([ft.points,ft.fog]),vertexShader:Bt.points_vert,fragmentShader:Bt.points_frag},dashed:{uniforms:ke([ft.common,ft.fog,{scale:{value:1},dashSize:{value:1},totalSize:{value:2}}]),vertexShader:Bt.linedashed_vert,fragmentShader:Bt.linedashed_frag},depth:{uniforms:ke([ft.common,ft.displacementmap]),vertexShader:Bt.depth_vert,fragmentShader:Bt.depth_frag},normal:{uniforms:ke([ft.common,ft.bumpmap,ft.normalmap,ft.displacementmap,{opacity:{value:1}}]),vertexShader:Bt.meshnormal_vert,fragmentShader:Bt.meshnormal_frag},sprite:{uniforms:ke([ft.sprite,ft.fog]),vertexShader:Bt.sprite_vert,fragmentShader:Bt.sprite_frag},background:{uniforms:{uvTransform:{value:new Pt},t2D:{value:null},backgroundIntensity:{value:1}},vertexShader:Bt.background_vert,fragmentShader:Bt.background_frag},backgroundCube:{uniforms:{envMap:{value:null},backgroundBlurriness:{value:0},backgroundIntensity:{value:1},backgroundRotation:{value:new Pt}},vertexShader:Bt.backgroundCube_vert,fragmentShader:Bt.backgroundCube_frag},cube:{uniforms:{tCube:{value:null},tFlip:{value:-1},opacity:{value:1}},vertexShader:Bt.cube_vert,fragmentShader:Bt.cube_frag},equirect:{uniforms:{tEquirect:{value:null}},vertexShader:Bt.equirect_vert,fragmentShader:Bt.equirect_frag},distance:{uniforms:ke([ft.common,ft.displacementmap,{referencePosition:{value:new N},nearDistance:{value:1},farDistance:{value:1e3}}]),vertexShader:Bt.distance_vert,fragmentShader:Bt.distance_frag},shadow:{uniforms:ke([ft.lights,ft.fog,{color:{value:new Ht(0)},opacity:{value:1}}]),vertexShader:Bt.shadow_vert,fragmentShader:Bt.shadow_frag}};Ui.physical={uniforms:ke([Ui.standard.uniforms,{clearcoat:{value:0},clearcoatMap:{value:null},clearcoatMapTransform:{value:new Pt},clearcoatNormalMap:{value:null},clearcoatNormalMapTransform:{value:new Pt},clearcoatNormalScale:{value:new Ot(1,1)},clearcoatRoughness:{value:0},clearcoatRoughnessMap:{value:null},clearcoatRoughnessMapTransform:{value:new Pt},diffuseRoughness:{value:0},diffuseRoughnessMap:{value:null},diffuseRoughnessMapTransform:{value:new Pt},dispersion:{value:0},retroreflectivity:{value:0},iridescence:{value:0},iridescenceMap:{value:null},iridescenceMapTransform:{value:new Pt},iridescenceIOR:{value:1.3},iridescenceThicknessMinimum:{value:100},iridescenceThicknessMaximum:{value:400},iridescenceThicknessMap:{value:null},iridescenceThicknessMapTransform:{value:new Pt},sheen:{value:0},sheenColor:{value:new Ht(0)},sheenColorMap:{value:null},sheenColorMapTransform:{value:new Pt},sheenRoughness:{value:1},sheenRoughnessMap:{value:null},sheenRoughnessMapTransform:{value:new Pt},transmission:{value:0},transmissionMap:{value:null},transmissionMapTransform:{value:new Pt},transmissionSamplerSize:{value:new Ot},transmissionSamplerMap:{value:null},thickness:{value:0},thicknessMap:{value:null},thicknessMapTransform:{value:new Pt},attenuationDistance:{value:0},attenuationColor:{value:new Ht(0)},specularColor:{value:new Ht(1,1,1)},specularColorMap:{value:null},specularColorMapTransform:{value:new Pt},specularIntensity:{value:1},specularIntensityMap:{value:null},specularIntensityMapTransform:{value:new Pt},anisotropyVector:{value:new Ot},anisotropyMap:{value:null},anisotropyMapTransform:{value:new Pt}}]),vertexShader:Bt.meshphysical_vert,fragmentShader:Bt.meshphysical_frag};var Nl={r:0,b:0,g:0},QS=new se,km=new Pt;km.set(-1,0,0,0,1,0,0,0,1);function tM(i,t,e,n,s,r){let a=new Ht(0),o=s===!0?0:1,l,c,h=null,d=0,u=null;function m(S){let T=S.isScene===!0?S.background:null;if(T&&T.isTexture){let w=S.backgroundBlurriness>0;T=t.get(T,w)}return T}function g(S){let T=!1,w=m(S);w===null?f(a,o):w&&w.isColor&&(f(w,1),T=!0);let R=i.xr.getEnvironmentBlendMode();R==="additive"?e.buffers.color.setClear(0,0,0,1,r):R==="alpha-blend"&&e.buffers.color.setClear(0,0,0,0,r),(i.autoClear||T)&&(e.buffers.depth.setTest(!0),e.buffers.depth.setMask(!0),e.buffers.color.setMask(!0),i.clear(i.autoClearColor,i.autoClearDepth,i.autoClearStencil))}function _(S,T){let w=m(T);w&&w.isCubeTexture?(c===void 0&&(c=new Ii(new Us(1,1,1),new Li({name:"BackgroundCubeMaterial",uniforms:es(Ui.backgroundCube.uniforms),vertexShader:Ui.backgroundCube.vertexShader,fragmentShader:Ui.backgroundCube.fragmentShader,side:Ge,depthTest:!1,depthWrite:!1,fog:!1,allowOverride:!1})),c.geometry.deleteAttribute("normal"),c.geometry.deleteAttribute("uv"),c.onBeforeRender=function(R,E,x){this.matrixWorld.copyPosition(x.matrixWorld)},Object.defineProperty(c.material,"envMap",{get:function(){return this.uniforms.envMap.value}}),n.update(c)),c.material.uniforms.envMap.value=w,c.material.uniforms.backgroundBlurriness.value=T.backgroundBlurriness,c.material.uniforms.backgroundIntensity.value=T.backgroundIntensity,c.material.uniforms.backgroundRotation.value.setFromMatrix4(QS.makeRotationFromEuler(T.backgroundRotation)).transpose(),w.isRenderTargetTexture===!1&&c.material.uniforms.backgroundRotation.value.premultiply(km),c.material.toneMapped=Xt.getTransfer(w.colorSpace)!==Kt,(h!==w||d!==w.version||u!==i.toneMapping)&&(c.material.needsUpdate=!0,h=w,d=w.version,u=i.toneMapping),c.layers.enableAll(),S.unshift(c,c.geometry,c.material,0,0,null)):w&&w.isTexture&&(l===void 0&&(l=new Ii(new Ur(2,2),new Li({name:"BackgroundMaterial",uniforms:es(Ui.background.uniforms),vertexShader:Ui.background.vertexShader,fragmentShader:Ui.background.fragmentShader,side:bn,depthTest:!1,depthWrite:!1,fog:!1,allowOverride:!1})),l.geometry.deleteAttribute("normal"),Object.defineProperty(l.material,"map",{get:function(){return this.uniforms.t2D.value}}),n.update(l)),l.material.uniforms.t2D.value=w,l.material.uniforms.backgroundIntensity.value=T.backgroundIntensity,l.material.toneMapped=Xt.getTransfer(w.colorSpace)!==Kt,w.matrixAutoUpdate===!0&&w.updateMatrix(),l.material.uniforms.uvTransform.value.copy(w.matrix),(h!==w||d!==w.version||u!==i.toneMapping)&&(l.material.needsUpdate=!0,h=w,d=w.version,u=i.toneMapping),l.layers.enableAll(),S.unshift(l,l.geometry,l.material,0,0,null))}function f(S,T){S.getRGB(Nl,au(i)),e.buffers.color.setClear(Nl.r,Nl.g,Nl.b,T,r)}function p(){c!==void 0&&(c.geometry.dispose(),c.material.dispose(),c=void 0),l!==void 0&&(l.geometry.dispose(),l.material.dispose(),l=void 0)}return{getClearColor:function(){return a},setClearColor:function(S,T=1){a.set(S),o=T,f(a,o)},getClearAlpha:function(){return o},setClearAlpha:function(S){o=S,f(a,o)},render:g,addToRenderList:_,dispose:p}}function eM(i,t){let e=i.getParameter(i.MAX_VERTEX_ATTRIBS),n={},s=u(null),r=s,a=!1;function o(D,z,q,P,W){let K=!1,H=d(D,P,q,z);r!==H&&(r=H,c(r.object)),K=m(D,P,q,W),K&&g(D,P,q,W),W!==null&&t.update(W,i.ELEMENT_ARRAY_BUFFER),(K||a)&&(a=!1,w(D,z,q,P),W!==null&&i.bindBuffer(i.ELEMENT_ARRAY_BUFFER,t.get(W).buffer))}function l(){return i.createVertexArray()}function c(D){return i.bindVertexArray(D)}function h(D){return i.deleteVertexArray(D)}function d(D,z,q,P){let W=P.wireframe===!0,K=n[z.id];K===void 0&&(K={},n[z.id]=K);let H=D.isInstancedMesh===!0?D.id:0,et=K[H];et===void 0&&(et={},K[H]=et);let G=et[q.id];G===void 0&&(G={},et[q.id]=G);let j=G[W];return j===void 0&&(j=u(l()),G[W]=j),j}function u(D){let z=[],q=[],P=[];for(let W=0;W<e;W++)z[W]=0,q[W]=0,P[W]=0;return{geometry:null,program:null,wireframe:!1,newAttributes:z,enabledAttributes:q,attributeDivisors:P,object:D,attributes:{},index:null}}function m(D,z,q,P){let W=r.attributes,K=z.attributes,H=0,et=q.getAttributes();for(let G in et)if(et[G].location>=0){let Q=W[G],St=K[G];if(St===void 0&&(G==="instanceMatrix"&&D.instanceMatrix&&(St=D.instanceMatrix),G==="instanceColor"&&D.instanceColor&&(St=D.instanceColor)),Q===void 0||Q.attribute!==St||St&&Q.data!==St.data)return!0;H++}return r.attributesNum!==H||r.index!==P}function g(D,z,q,P){let W={},K=z.attributes,H=0,et=q.getAttributes();for(let G in et)if(et[G].location>=0){let Q=K[G];Q===void 0&&(G==="instanceMatrix"&&D.instanceMatrix&&(Q=D.instanceMatrix),G==="instanceColor"&&D.instanceColor&&(Q=D.instanceColor));let St={};St.attribute=Q,Q&&Q.data&&(St.data=Q.data),W[G]=St,H++}r.attributes=W,r.attributesNum=H,r.index=P}function _(){let D=r.newAttributes;for(let z=0,q=D.length;z<q;z++)D[z]=0}function f(D){p(D,0)}function p(D,z){let q=r.newAttributes,P=r.enabledAttributes,W=r.attributeDivisors;q[D]=1,P[D]===0&&(i.enableVertexAttribArray(D),P[D]=1),W[D]!==z&&(i.vertexAttribDivisor(D,z),W[D]=z)}function S(){let D=r.newAttributes,z=r.enabledAttributes;for(let q=0,P=z.length;q<P;q++)z[q]!==D[q]&&(i.disableVertexAttribArray(q),z[q]=0)}function T(D,z,q,P,W,K,H){H===!0?i.vertexAttribIPointer(D,z,q,W,K):i.vertexAttribPointer(D,z,q,P,W,K)}function w(D,z,q,P){_();let W=P.attributes,K=q.getAttributes(),H=z.defaultAttributeValues;for(let et in K){let G=K[et];if(G.location>=0){let j=W[et];if(j===void 0&&(et==="instanceMatrix"&&D.instanceMatrix&&(j=D.instanceMatrix),et==="instanceColor"&&D.instanceColor&&(j=D.instanceColor)),j!==void 0){let Q=j.normalized,St=j.itemSize,Lt=t.get(j);if(Lt===void 0)continue;let Y=Lt.buffer,pt=Lt.type,xt=Lt.bytesPerElement,Tt=pt===i.INT||pt===i.UNSIGNED_INT||j.gpuType===jo;if(j.isInterleavedBufferAttribute){let mt=j.data,Ut=mt.isInterleavedBuffer===!0?mt.stride:mt.itemSize,ge=j.offset;if(mt.isInstancedInterleavedBuffer||mt.isInstancedBufferAttribute){for(let Rt=0;Rt<G.locationSize;Rt++)p(G.location+Rt,mt.meshPerAttribute);D.isInstancedMesh!==!0&&P._maxInstanceCount===void 0&&(P._maxInstanceCount=mt.meshPerAttribute*mt.count)}else for(let Rt=0;Rt<G.locationSize;Rt++)f(G.location+Rt);i.bindBuffer(i.ARRAY_BUFFER,Y);for(let Rt=0;Rt<G.locationSize;Rt++)T(G.location+Rt,St/G.locationSize,pt,Q,Ut*xt,(ge+St/G.locationSize*Rt)*xt,Tt)}else{if(j.isInstancedBufferAttribute){for(let mt=0;mt<G.locationSize;mt++)p(G.location+mt,j.meshPerAttribute);D.isInstancedMesh!==!0&&P._maxInstanceCount===void 0&&(P._maxInstanceCount=j.meshPerAttribute*j.count)}else for(let mt=0;mt<G.locationSize;mt++)f(G.location+mt);i.bindBuffer(i.ARRAY_BUFFER,Y);for(let mt=0;mt<G.locationSize;mt++)T(G.location+mt,St/G.locationSize,pt,Q,St*xt,St/G.locationSize*mt*xt,Tt)}}else if(H!==void 0){let Q=H[et];if(Q!==void 0)switch(Q.length){case 2:i.vertexAttrib2fv(G.location,Q);break;case 3:i.vertexAttrib3fv(G.location,Q);break;case 4:i.vertexAttrib4fv(G.location,Q);break;default:i.vertexAttrib1fv(G.location,Q)}}}}S()}function R(){k();for(let D in n){let z=n[D];for(let q in z){let P=z[q];for(let W in P){let K=P[W];for(let H in K)h(K[H].object),delete K[H];delete P[W]}}delete n[D]}}function E(D){if(n[D.id]===void 0)return;let z=n[D.id];for(let q in z){let P=z[q];for(let W in P){let K=P[W];for(let H in K)h(K[H].object),delete K[H];delete P[W]}}delete n[D.id]}function x(D){for(let z in n){let q=n[z];for(let P in q){let W=q[P];if(W[D.id]===void 0)continue;let K=W[D.id];for(let H in K)h(K[H].object),delete K[H];delete W[D.id]}}}function b(D){for(let z in n){let q=n[z],P=D.isInstancedMesh===!0?D.id:0,W=q[P];if(W!==void 0){for(let K in W){let H=W[K];for(let et in H)h(H[et].object),delete H[et];delete W[K]}delete q[P],Object.keys(q).length===0&&delete n[z]}}}function k(){I(),a=!0,r!==s&&(r=s,c(r.object))}function I(){s.geometry=null,s.program=null,s.wireframe=!1}return{setup:o,reset:k,resetDefaultState:I,dispose:R,releaseStatesOfGeometry:E,releaseStatesOfObject:b,releaseStatesOfProgram:x,initAttributes:_,enableAttribute:f,disableUnusedAttributes:S}}function iM(i,t,e){let n;function s(l){n=l}function r(l,c){i.drawArrays(n,l,c),e.update(c,n,1)}function a(l,c,h){h!==0&&(i.drawArraysInstanced(n,l,c,h),e.update(c,n,h))}function o(l,c,h){if(h===0)return;t.get("WEBGL_multi_draw").multiDrawArraysWEBGL(n,l,0,c,0,h);let u=0;for(let m=0;m<h;m++)u+=c[m];e.update(u,n,1)}this.setMode=s,this.render=r,this.renderInstances=a,this.renderMultiDraw=o}function nM(i,t,e,n){let s;function r(){if(s!==void 0)return s;if(t.has("EXT_texture_filter_anisotropic")===!0){let x=t.get("EXT_texture_filter_anisotropic");s=i.getParameter(x.MAX_TEXTURE_MAX_ANISOTROPY_EXT)}else s=0;return s}function a(x){return!(x!==vi&&n.convert(x)!==i.getParameter(i.IMPLEMENTATION_COLOR_READ_FORMAT))}function o(x){let b=x===yi&&(t.has("EXT_color_buffer_half_float")||t.has("EXT_color_buffer_float"));return!(x!==ii&&x!==xi&&!b&&n.convert(x)!==i.getParameter(i.IMPLEMENTATION_COLOR_READ_TYPE))}function l(x){if(x==="highp"){if(i.getShaderPrecisionFormat(i.VERTEX_SHADER,i.HIGH_FLOAT).precision>0&&i.getShaderPrecisionFormat(i.FRAGMENT_SHADER,i.HIGH_FLOAT).precision>0)return"highp";x="mediump"}return x==="mediump"&&i.getShaderPrecisionFormat(i.VERTEX_SHADER,i.MEDIUM_FLOAT).precision>0&&i.getShaderPrecisionFormat(i.FRAGMENT_SHADER,i.MEDIUM_FLOAT).precision>0?"mediump":"lowp"}let c=e.precision!==void 0?e.precision:"highp",h=l(c);h!==c&&(Et("WebGLRenderer:",c,"not supported, using",h,"instead."),c=h);let d=e.reversedDepthBuffer===!0&&t.has("EXT_clip_control"),u=e.logarithmicDepthBuffer===!0&&d===!1;e.reversedDepthBuffer===!0&&d===!1&&Et("WebGLRenderer: Unable to use reversed depth buffer due to missing EXT_clip_control extension. Fallback to default depth buffer."),e.logarithmicDepthBuffer===!0&&d===!0&&Et("WebGLRenderer: Logarithmic depth buffer is ignored when reversed depth buffer is enabled.");let m=i.getParameter(i.MAX_TEXTURE_IMAGE_UNITS),g=i.getParameter(i.MAX_VERTEX_TEXTURE_IMAGE_UNITS),_=i.getParameter(i.MAX_TEXTURE_SIZE),f=i.getParameter(i.MAX_CUBE_MAP_TEXTURE_SIZE),p=i.getParameter(i.MAX_VERTEX_ATTRIBS),S=i.getParameter(i.MAX_VERTEX_UNIFORM_VECTORS),T=i.getParameter(i.MAX_VARYING_VECTORS),w=i.getParameter(i.MAX_FRAGMENT_UNIFORM_VECTORS),R=i.getParameter(i.MAX_SAMPLES),E=i.getParameter(i.SAMPLES);return{isWebGL2:!0,getMaxAnisotropy:r,getMaxPrecision:l,textureFormatReadable:a,textureTypeReadable:o,precision:c,logarithmicDepthBuffer:u,reversedDepthBuffer:d,maxTextures:m,maxVertexTextures:g,maxTextureSize:_,maxCubemapSize:f,maxAttributes:p,maxVertexUniforms:S,maxVaryings:T,maxFragmentUniforms:w,maxSamples:R,samples:E}}function sM(i){let t=this,e=null,n=0,s=!1,r=!1,a=new je,o=new Pt,l={value:null,needsUpdate:!1};this.uniform=l,this.numPlanes=0,this.numIntersection=0,this.init=function(d,u){let m=d.length!==0||u||n!==0||s;return s=u,n=d.length,m},this.beginShadows=function(){r=!0,h(null)},this.endShadows=function(){r=!1},this.setGlobalState=function(d,u){e=h(d,u,0)},this.setState=function(d,u,m){let g=d.clippingPlanes,_=d.clipIntersection,f=d.clipShadows,p=i.get(d);if(!s||g===null||g.length===0||r&&!f)r?h(null):c();else{let S=r?0:n,T=S*4,w=p.clippingState||null;l.value=w,w=h(g,u,T,m);for(let R=0;R!==T;++R)w[R]=e[R];p.clippingState=w,this.numIntersection=_?this.numPlanes:0,this.numPlanes+=S}};function c(){l.value!==e&&(l.value=e,l.needsUpdate=n>0),t.numPlanes=n,t.numIntersection=0}function h(d,u,m,g){let _=d!==null?d.length:0,f=null;if(_!==0){if(f=l.value,g!==!0||f===null){let p=m+_*4,S=u.matrixWorldInverse;o.getNormalMatrix(S),(f===null||f.length<p)&&(f=new Float32Array(p));for(let T=0,w=m;T!==_;++T,w+=4)a.copy(d[T]).applyMatrix4(S,o),a.normal.toArray(f,w),f[w+3]=a.constant}l.value=f,l.needsUpdate=!0}return t.numPlanes=_,t.numIntersection=0,f}}var Jr=class extends ti{constructor(t=1,e={}){super(t,t,e),this.isWebGLCubeRenderTarget=!0;let n={width:t,height:t,depth:1},s=[n,n,n,n,n,n];this.texture=new Dr(s),this._setTextureOptions(e),this.texture.isRenderTargetTexture=!0}fromEquirectangularTexture(t,e){this.texture.type=e.type,this.texture.colorSpace=e.colorSpace,this.texture.generateMipmaps=e.generateMipmaps,this.texture.minFilter=e.minFilter,this.texture.magFilter=e.magFilter;let n={uniforms:{tEquirect:{value:null}},vertexShader:`

				varying vec3 vWorldDirection;

				vec3 transformDirection( in vec3 dir, in mat4 matrix ) {

					return normalize( ( matrix * vec4( dir, 0.0 ) ).xyz );

				}

				void main() {

					vWorldDirection = transformDirection( position, modelMatrix );

					#include <begin_vertex>
					#include <project_vertex>

				}
			`,fragmentShader:`

				uniform sampler2D tEquirect;

				varying vec3 vWorldDirection;

				#include <common>

				void main() {

					vec3 direction = normalize( vWorldDirection );

					vec2 sampleUV = equirectUv( direction );

					gl_FragColor = texture2D( tEquirect, sampleUV );

				}
			`},s=new Us(5,5,5),r=new Li({name:"CubemapFromEquirect",uniforms:es(n.uniforms),vertexShader:n.vertexShader,fragmentShader:n.fragmentShader,side:Ge,blending:Jn});r.uniforms.tEquirect.value=e;let a=new Ii(s,r),o=e.minFilter;return e.minFilter===ji&&(e.minFilter=Ve),new Fs(1,10,this).update(t,a),e.minFilter=o,a.geometry.dispose(),a.material.dispose(),this}clear(t,e=!0,n=!0,s=!0){let r=t.getRenderTarget();for(let a=0;a<6;a++)t.setRenderTarget(this,a),t.clear(e,n,s);t.setRenderTarget(r)}},gm=256,rM=3,aM=20,Bm=256,zm=16,oM=3,lM=new N,cM=new Ht,Ul=class i{constructor(t){this._renderer=t,this._cubeSize=0,this._sourceTarget=null,this._cubeCamera=new Fs(1,10,null),this._boxMesh=new Ii(new Us(5,5,5),null),this._cubemapMaterial=null,this._equirectMaterial=null,this._blurMaterial=null,this._ggxMaterial=null,this._integrationMaterial=null}fromScene(t,e=0,n=.1,s=100,r={}){let{size:a=256,position:o=lM}=r,l=this._renderer;this._setSize(a);let c=this._allocateTarget(),h=this._getSourceTarget(!0);e>0&&(h.texture.mipmapsAutoUpdate=!1);let d=l.autoClear,u=l.autoClearColor,m=l.autoClearDepth,g=l.autoClearStencil,_=t.background;l.autoClear=!0,l.autoClearColor=!0,l.autoClearDepth=!0,l.autoClearStencil=!0,_===null&&(t.background=l.getClearColor(cM));let f=new Fs(n,s,h);return f.position.copy(o),f.update(l,t),l.autoClear=d,l.autoClearColor=u,l.autoClearDepth=m,l.autoClearStencil=g,t.background=_,e>0&&(h.texture.mipmapsAutoUpdate=!0,this._blur(c,e)),this._applyPMREM(c),c}fromEquirectangular(t,e=null){return this._fromTexture(t,e)}fromCubemap(t,e=null){return this._fromTexture(t,e)}compileCubemapShader(){this._cubemapMaterial===null&&(this._cubemapMaterial=ym(),this._compileMaterial(this._cubemapMaterial))}compileEquirectangularShader(){this._equirectMaterial===null&&(this._equirectMaterial=xm(),this._compileMaterial(this._equirectMaterial))}dispose(){this._sourceTarget!==null&&this._sourceTarget.dispose(),this._cubemapMaterial!==null&&this._cubemapMaterial.dispose(),this._equirectMaterial!==null&&this._equirectMaterial.dispose(),this._blurMaterial!==null&&this._blurMaterial.dispose(),this._ggxMaterial!==null&&this._ggxMaterial.dispose(),this._integrationMaterial!==null&&this._integrationMaterial.dispose(),this._boxMesh.geometry.dispose()}static lodToRoughness(t,e){return e>0?1-Math.sqrt(1-t/e):0}_setSize(t){this._cubeSize=Math.max(gm,nu(t))}_fromTexture(t,e){t.mapping===Qn||t.mapping===Hs?this._setSize(t.image.length===0?gm:t.image[0].width||t.image[0].image.width):this._setSize(t.image.width/4);let n=e||this._allocateTarget();return this._textureToCubemap(t),this._applyPMREM(n),n}_allocateTarget(){let t=this._cubeSize,e=_m(t,!1,!1),n=Math.log2(t)-rM;for(let s=0;s<=n;s++)e.texture.mipmaps.push({width:t>>s,height:t>>s});return e.texture.name="PMREM",e.texture.isPMREMTexture=!0,e}_getSourceTarget(t=!1){let e=this._cubeSize,n=this._sourceTarget;return(n===null||n.width!==e||t&&n.depthBuffer===!1)&&(n!==null&&n.dispose(),this._sourceTarget=_m(e,!0,t)),this._sourceTarget}_compileMaterial(t){this._boxMesh.material=t,this._renderer.compile(this._boxMesh,this._cubeCamera.children[0])}_renderCube(t,e,n){let s=this._boxMesh,r=this._cubeCamera;s.material=n,r.renderTarget=t,r.activeMipmapLevel=e;let a=t.width>>e;t.viewport.set(0,0,a,a),r.update(this._renderer,s),t.viewport.set(0,0,t.width,t.height)}_textureToCubemap(t){let e;t.mapping===Qn||t.mapping===Hs?(this._cubemapMaterial===null&&(this._cubemapMaterial=ym()),e=this._cubemapMaterial,e.uniforms.flipEnvMap.value=t.isRenderTargetTexture===!1?-1:1):(this._equirectMaterial===null&&(this._equirectMaterial=xm()),e=this._equirectMaterial),e.uniforms.envMap.value=t,this._renderCube(this._getSourceTarget(),0,e)}_applyPMREM(t){this._ggxMaterial===null&&(this._ggxMaterial=hM(),this._integrationMaterial=uM());let e=this._cubeSize,n=t.texture.mipmaps.length-1,s=this._ggxMaterial.uniforms;s.envMap.value=this._sourceTarget.texture;let r=this._integrationMaterial.uniforms;r.envMap.value=this._sourceTarget.texture,r.sourceLod.value=Math.log2(e/zm);for(let a=0;a<=n;a++){let o=i.lodToRoughness(a,n);if(a>n-oM)r.roughness.value=o,this._renderCube(t,a,this._integrationMaterial);else{let l=o>0?Math.log2(e)+.5*Math.log2(6/(Bm*Math.pow(o,4)))+.5:0;s.roughness.value=o,s.lodBias.value=l,this._renderCube(t,a,this._ggxMaterial)}}}_blur(t,e){this._blurMaterial===null&&(this._blurMaterial=dM());let n=this._blurMaterial,s=n.uniforms,r=this._sourceTarget;s.sigma.value=Math.min(e,Math.PI)/Math.SQRT2,s.envMap.value=r.texture,this._renderCube(t,0,n),s.envMap.value=t.texture,this._renderCube(r,0,n)}};function _m(i,t,e){return new Jr(i,{minFilter:ji,generateMipmaps:t,type:yi,colorSpace:wr,depthBuffer:e})}function jr(i,t,e){return new Li({name:i,uniforms:t,vertexShader:Bt.cube_vert,fragmentShader:e,side:Ge,blending:Jn,depthTest:!1,depthWrite:!1})}function hM(){return jr("PMREMGGXConvolution",{envMap:{value:null},roughness:{value:0},lodBias:{value:0}},`

		#define GGX_SAMPLES ${Bm}u

		varying vec3 vWorldDirection;

		uniform samplerCube envMap;
		uniform float roughness;
		uniform float lodBias;

		#include <common>

		// Van der Corput radical inverse
		float radicalInverse_VdC( uint bits ) {

			bits = ( bits << 16u ) | ( bits >> 16u );
			bits = ( ( bits & 0x55555555u ) << 1u ) | ( ( bits & 0xAAAAAAAAu ) >> 1u );
			bits = ( ( bits & 0x33333333u ) << 2u ) | ( ( bits & 0xCCCCCCCCu ) >> 2u );
			bits = ( ( bits & 0x0F0F0F0Fu ) << 4u ) | ( ( bits & 0xF0F0F0F0u ) >> 4u );
			bits = ( ( bits & 0x00FF00FFu ) << 8u ) | ( ( bits & 0xFF00FF00u ) >> 8u );
			return float( bits ) * 2.3283064365386963e-10; // / 0x100000000

		}

		// Hammersley sequence
		vec2 hammersley( uint i, uint N ) {

			return vec2( float( i ) / float( N ), radicalInverse_VdC( i ) );

		}

		void main() {

			vec3 N = normalize( vWorldDirection );

			// For very low roughness, just sample the environment directly
			if ( roughness < 0.001 ) {

				gl_FragColor = vec4( textureLod( envMap, N, 0.0 ).rgb, 1.0 );
				return;

			}

			float alpha = roughness * roughness;
			float alpha2 = alpha * alpha;

			// Tangent space basis for VNDF sampling
			vec3 up = abs( N.z ) < 0.999 ? vec3( 0.0, 0.0, 1.0 ) : vec3( 1.0, 0.0, 0.0 );
			vec3 tangent = normalize( cross( up, N ) );
			vec3 bitangent = cross( N, tangent );

			vec3 prefilteredColor = vec3( 0.0 );
			float totalWeight = 0.0;

			for ( uint i = 0u; i < GGX_SAMPLES; i ++ ) {

				vec2 Xi = hammersley( i, GGX_SAMPLES );

				// With V = N, sample the reflected direction directly.
				float invQ = 1.0 / ( 1.0 - Xi.x + alpha2 * Xi.x );
				float NdotL = ( 1.0 - Xi.x - alpha2 * Xi.x ) * invQ;

				if ( NdotL > 0.0 ) {

					float phi = 2.0 * PI * Xi.y;
					float sinTheta = 2.0 * alpha * sqrt( Xi.x * ( 1.0 - Xi.x ) ) * invQ;
					vec3 L = N * NdotL + ( tangent * cos( phi ) + bitangent * sin( phi ) ) * sinTheta;

					// Match the source mip to the sample's solid angle. The terms
					// independent of the sample are precomputed in lodBias.
					float d = alpha2 * invQ;
					float lod = max( log2( d ) + lodBias, 0.0 );

					// Weight by NdotL for the split-sum approximation
					prefilteredColor += textureLod( envMap, L, lod ).rgb * NdotL;
					totalWeight += NdotL;

				}

			}

			gl_FragColor = vec4( prefilteredColor / totalWeight, 1.0 );

		}
	`)}function uM(){return jr("PMREMGGXIntegration",{envMap:{value:null},roughness:{value:0},sourceLod:{value:0},sourceSize:{value:zm}},`

		varying vec3 vWorldDirection;

		uniform samplerCube envMap;
		uniform float roughness;
		uniform float sourceLod;
		uniform int sourceSize;

		void main() {

			vec3 N = normalize( vWorldDirection );

			float alpha = roughness * roughness;
			float alpha2 = alpha * alpha;

			float texelSize = 2.0 / float( sourceSize );

			vec3 prefilteredColor = vec3( 0.0 );
			float totalWeight = 0.0;

			// Pair opposite texels: only the one in N's hemisphere contributes.
			for ( int face = 0; face < 3; face ++ ) {

				for ( int y = 0; y < sourceSize; y ++ ) {

					for ( int x = 0; x < sourceSize; x ++ ) {

						vec2 uv = ( vec2( x, y ) + 0.5 ) * texelSize - 1.0;
						vec3 texelDirection = face == 0 ? vec3( 1.0, uv ) : ( face == 1 ? vec3( uv.x, 1.0, uv.y ) : vec3( uv, 1.0 ) );

						float invDistance = inversesqrt( 1.0 + dot( uv, uv ) );
						float NdotL = dot( N, texelDirection );
						texelDirection *= NdotL < 0.0 ? - 1.0 : 1.0;
						NdotL = abs( NdotL ) * invDistance;

						// With V = N, NdotH squared is ( 1 + NdotL ) / 2. Common factors
						// in the GGX distribution and texel solid angle cancel when normalized.
						float d = 1.0 + alpha2 + ( alpha2 - 1.0 ) * NdotL;
						float weight = NdotL * invDistance * invDistance * invDistance / ( d * d );

						prefilteredColor += textureLod( envMap, texelDirection, sourceLod ).rgb * weight;
						totalWeight += weight;

					}

				}

			}

			gl_FragColor = vec4( prefilteredColor / totalWeight, 1.0 );

		}
	`)}function dM(){return jr("PMREMSphericalGaussianBlur",{envMap:{value:null},sigma:{value:0}},`

		#define SAMPLES ${aM}
		#define GOLDEN_ANGLE 2.39996322973

		varying vec3 vWorldDirection;

		uniform samplerCube envMap;
		uniform float sigma;

		#include <common>

		void main() {

			vec3 outputDirection = normalize( vWorldDirection );

			vec3 up = abs( outputDirection.z ) < 0.999 ? vec3( 0.0, 0.0, 1.0 ) : vec3( 1.0, 0.0, 0.0 );
			vec3 tangent = normalize( cross( up, outputDirection ) );
			vec3 bitangent = cross( outputDirection, tangent );

			// Truncate the kernel at three standard deviations or at the antipode.
			float thetaMax = min( 3.0 * sigma, PI );
			float truncation = 1.0 - exp( - 0.5 * thetaMax * thetaMax / ( sigma * sigma ) );

			vec3 accumColor = vec3( 0.0 );
			float accumWeight = 0.0;

			for ( int i = 0; i < SAMPLES; i ++ ) {

				// Stratified inverse-CDF sampling of the Gaussian, placed on a golden-angle spiral.
				float stratum = ( float( i ) + 0.5 ) / float( SAMPLES );
				float theta = sigma * sqrt( - 2.0 * log( 1.0 - stratum * truncation ) );
				float phi = float( i ) * GOLDEN_ANGLE;

				vec3 offset = cos( phi ) * tangent + sin( phi ) * bitangent;
				vec3 sampleDirection = cos( theta ) * outputDirection + sin( theta ) * offset;

				// Correct the planar sample density to solid angle.
				float weight = sin( theta ) / theta;

				accumColor += weight * textureLod( envMap, sampleDirection, 0.0 ).rgb;
				accumWeight += weight;

			}

			gl_FragColor = vec4( accumColor / accumWeight, 1.0 );

		}
	`)}function xm(){return jr("PMREMEquirectangularToCubemap",{envMap:{value:null}},`

		varying vec3 vWorldDirection;

		uniform sampler2D envMap;

		#include <common>

		void main() {

			// Average four subpixel samples to preserve small, bright features.
			vec3 direction = normalize( vWorldDirection );
			vec3 dx = dFdx( direction ) * 0.25;
			vec3 dy = dFdy( direction ) * 0.25;

			vec3 color = textureLod( envMap, equirectUv( normalize( direction - dx - dy ) ), 0.0 ).rgb;
			color += textureLod( envMap, equirectUv( normalize( direction + dx - dy ) ), 0.0 ).rgb;
			color += textureLod( envMap, equirectUv( normalize( direction - dx + dy ) ), 0.0 ).rgb;
			color += textureLod( envMap, equirectUv( normalize( direction + dx + dy ) ), 0.0 ).rgb;
			gl_FragColor = vec4( color * 0.25, 1.0 );

		}
	`)}function ym(){return jr("PMREMCubemapToCubemap",{envMap:{value:null},flipEnvMap:{value:-1}},`

		varying vec3 vWorldDirection;

		uniform samplerCube envMap;
		uniform float flipEnvMap;

		void main() {

			gl_FragColor = vec4( textureCube( envMap, vec3( flipEnvMap * vWorldDirection.x, vWorldDirection.yz ) ).rgb, 1.0 );

		}
	`)}function fM(i){let t=new WeakMap,e=new WeakMap,n=null;function s(u,m=!1){return u==null?null:m?a(u):r(u)}function r(u){if(u&&u.isTexture){let m=u.mapping;if(m===Zo||m===Ko)if(t.has(u)){let g=t.get(u).texture;return o(g,u.mapping)}else{let g=u.image;if(g&&g.height>0){let _=new Jr(g.height);return _.fromEquirectangularTexture(i,u),t.set(u,_),u.addEventListener("dispose",c),o(_.texture,u.mapping)}else return null}}return u}function a(u){if(u&&u.isTexture&&u.isPMREMTexture!==!0){let m=u.mapping,g=m===Zo||m===Ko,_=m===Qn||m===Hs;if(g||_){let f=e.get(u),p=f!==void 0?f.texture.pmremVersion:0;if(u.isRenderTargetTexture&&u.pmremVersion!==p)return n===null&&(n=new Ul(i)),f=g?n.fromEquirectangular(u,f):n.fromCubemap(u,f),f.texture.pmremVersion=u.pmremVersion,e.set(u,f),f.texture;if(f!==void 0)return f.texture;{let S=u.image;return g&&S&&S.height>0||_&&S&&l(S)?(n===null&&(n=new Ul(i)),f=g?n.fromEquirectangular(u):n.fromCubemap(u),f.texture.pmremVersion=u.pmremVersion,e.set(u,f),u.addEventListener("dispose",h),f.texture):null}}}return u}function o(u,m){return m===Zo?u.mapping=Qn:m===Ko&&(u.mapping=Hs),u}function l(u){let m=0,g=6;for(let _=0;_<g;_++)u[_]!==void 0&&m++;return m===g}function c(u){let m=u.target;m.removeEventListener("dispose",c);let g=t.get(m);g!==void 0&&(t.delete(m),g.dispose())}function h(u){let m=u.target;m.removeEventListener("dispose",h);let g=e.get(m);g!==void 0&&(e.delete(m),g.dispose())}function d(){t=new WeakMap,e=new WeakMap,n!==null&&(n.dispose(),n=null)}return{get:s,dispose:d}}function pM(i){let t={};function e(n){if(t[n]!==void 0)return t[n];let s=i.getExtension(n);return t[n]=s,s}return{has:function(n){return e(n)!==null},init:function(){e("EXT_color_buffer_float"),e("WEBGL_clip_cull_distance"),e("OES_texture_float_linear"),e("EXT_color_buffer_half_float"),e("WEBGL_multisampled_render_to_texture"),e("WEBGL_render_shared_exponent")},get:function(n){let s=e(n);return s===null&&vr("WebGLRenderer: "+n+" extension not supported."),s}}}function mM(i,t,e,n){let s={},r=new WeakMap,a=new FinalizationRegistry(g=>delete s[g]);function o(g){l(g.target)}function l(g){g.index!==null&&t.remove(g.index);for(let f in g.attributes)t.remove(g.attributes[f]);g.removeEventListener("dispose",o),delete s[g.id],a.unregister(g);let _=r.get(g);_&&(t.remove(_),r.delete(g)),n.releaseStatesOfGeometry(g),g.isInstancedBufferGeometry===!0&&delete g._maxInstanceCount,e.memory.geometries--}function c(g,_){return s[_.id]!==void 0||(_.addEventListener("dispose",o),s[_.id]=new WeakRef(_),a.register(_,_.id,_),e.memory.geometries++),_}function h(g){let _=g.attributes;for(let f in _)t.update(_[f],i.ARRAY_BUFFER)}function d(g){let _=g.index,f=g.attributes.position,p=0;if(f===void 0)return;let S=_!==null?_.array.length:f.array.length/3-1,T=f.count>=65535?Lr:Ir,w=new T(Math.ceil(S/3)*6,1),R=w.array;if(_!==null){let x=_.array;p=_.version;for(let b=0,k=0;b<S;b+=3){let I=x[b+0],D=x[b+1],z=x[b+2];R[k++]=I,R[k++]=D,R[k++]=D,R[k++]=z,R[k++]=z,R[k++]=I}}else{p=f.version;for(let x=0,b=0;x<S;x+=3){let k=x+0,I=x+1,D=x+2;R[b++]=k,R[b++]=I,R[b++]=I,R[b++]=D,R[b++]=D,R[b++]=k}}w.version=p;let E=r.get(g);E&&t.remove(E),r.set(g,w)}function u(g){let _=r.get(g);if(_){let f=g.index;f!==null&&_.version<f.version&&d(g)}else d(g);return r.get(g)}function m(){for(let g in s){let _=s[g].deref();_!==void 0&&l(_)}}return{get:c,update:h,getWireframeAttribute:u,dispose:m}}function gM(i,t,e){let n;function s(d){n=d}let r,a;function o(d){r=d.type,a=d.bytesPerElement}function l(d,u){i.drawElements(n,u,r,d*a),e.update(u,n,1)}function c(d,u,m){m!==0&&(i.drawElementsInstanced(n,u,r,d*a,m),e.update(u,n,m))}function h(d,u,m){if(m===0)return;t.get("WEBGL_multi_draw").multiDrawElementsWEBGL(n,u,0,r,d,0,m);let _=0;for(let f=0;f<m;f++)_+=u[f];e.update(_,n,1)}this.setMode=s,this.setIndex=o,this.render=l,this.renderInstances=c,this.renderMultiDraw=h}function _M(i){let t={geometries:0,textures:0},e={frame:0,calls:0,triangles:0,points:0,lines:0};function n(r,a,o){switch(e.calls++,a){case i.TRIANGLES:e.triangles+=o*(r/3);break;case i.LINES:e.lines+=o*(r/2);break;case i.LINE_STRIP:e.lines+=o*(r-1);break;case i.LINE_LOOP:e.lines+=o*r;break;case i.POINTS:e.points+=o*r;break;default:Ct("WebGLInfo: Unknown draw mode:",a);break}}function s(){e.calls=0,e.triangles=0,e.points=0,e.lines=0}return{memory:t,render:e,programs:null,autoReset:!0,reset:s,update:n}}function xM(i,t,e){let n=new WeakMap,s=new ue;function r(a,o,l){let c=a.morphTargetInfluences,h=o.morphAttributes.position||o.morphAttributes.normal||o.morphAttributes.color,d=h!==void 0?h.length:0,u=n.get(o);if(u===void 0||u.count!==d){let k=function(){x.dispose(),n.delete(o),o.removeEventListener("dispose",k)};u!==void 0&&u.texture.dispose();let m=o.morphAttributes.position!==void 0,g=o.morphAttributes.normal!==void 0,_=o.morphAttributes.color!==void 0,f=o.morphAttributes.position||[],p=o.morphAttributes.normal||[],S=o.morphAttributes.color||[],T=0;m===!0&&(T=1),g===!0&&(T=2),_===!0&&(T=3);let w=o.attributes.position.count*T,R=1;w>t.maxTextureSize&&(R=Math.ceil(w/t.maxTextureSize),w=t.maxTextureSize);let E=new Float32Array(w*R*4*d),x=new Rr(E,w,R,d);x.type=xi,x.needsUpdate=!0;let b=T*4;for(let I=0;I<d;I++){let D=f[I],z=p[I],q=S[I],P=w*R*4*I;for(let W=0;W<D.count;W++){let K=W*b;m===!0&&(s.fromBufferAttribute(D,W),E[P+K+0]=s.x,E[P+K+1]=s.y,E[P+K+2]=s.z,E[P+K+3]=0),g===!0&&(s.fromBufferAttribute(z,W),E[P+K+4]=s.x,E[P+K+5]=s.y,E[P+K+6]=s.z,E[P+K+7]=0),_===!0&&(s.fromBufferAttribute(q,W),E[P+K+8]=s.x,E[P+K+9]=s.y,E[P+K+10]=s.z,E[P+K+11]=q.itemSize===4?s.w:1)}}u={count:d,texture:x,size:new Ot(w,R)},n.set(o,u),o.addEventListener("dispose",k)}if(a.isInstancedMesh===!0&&a.morphTexture!==null)l.getUniforms().setValue(i,"morphTexture",a.morphTexture,e);else{let m=0;for(let _=0;_<c.length;_++)m+=c[_];let g=o.morphTargetsRelative?1:1-m;l.getUniforms().setValue(i,"morphTargetBaseInfluence",g),l.getUniforms().setValue(i,"morphTargetInfluences",c)}l.getUniforms().setValue(i,"morphTargetsTexture",u.texture,e),l.getUniforms().setValue(i,"morphTargetsTextureSize",u.size)}return{update:r}}function yM(i,t,e,n,s){let r=new WeakMap;function a(c){let h=s.render.frame,d=c.geometry,u=t.get(c,d);if(r.get(u)!==h&&(t.update(u),r.set(u,h)),c.isInstancedMesh&&(c.hasEventListener("dispose",l)===!1&&c.addEventListener("dispose",l),r.get(c)!==h&&(e.update(c.instanceMatrix,i.ARRAY_BUFFER),c.instanceColor!==null&&e.update(c.instanceColor,i.ARRAY_BUFFER),r.set(c,h))),c.isSkinnedMesh){let m=c.skeleton;r.get(m)!==h&&(m.update(),r.set(m,h))}return u}function o(){r=new WeakMap}function l(c){let h=c.target;h.removeEventListener("dispose",l),n.releaseStatesOfObject(h),e.remove(h.instanceMatrix),h.instanceColor!==null&&e.remove(h.instanceColor)}return{update:a,dispose:o}}var vM={[Oh]:"LINEAR_TONE_MAPPING",[Uh]:"REINHARD_TONE_MAPPING",[Fh]:"CINEON_TONE_MAPPING",[kh]:"ACES_FILMIC_TONE_MAPPING",[zh]:"AGX_TONE_MAPPING",[Hh]:"NEUTRAL_TONE_MAPPING",[Bh]:"CUSTOM_TONE_MAPPING"};function SM(i,t,e,n,s,r){let a=new ti(t,e,{type:i,depthBuffer:s,stencilBuffer:r,samples:n?4:0,storeMultisampledDepthBuffer:!1,storeMultisampledStencilBuffer:!1,resolveDepthBuffer:!1,resolveStencilBuffer:!1}),o=null,l=null,c=null,h=new Fe;h.setAttribute("position",new me([-1,3,0,-1,-1,0,3,-1,0],3)),h.setAttribute("uv",new me([0,2,0,0,2,0],2));let d=new No({uniforms:{tDiffuse:{value:null}},vertexShader:`
			precision highp float;

			uniform mat4 modelViewMatrix;
			uniform mat4 projectionMatrix;

			attribute vec3 position;
			attribute vec2 uv;

			varying vec2 vUv;

			void main() {
				vUv = uv;
				gl_Position = projectionMatrix * modelViewMatrix * vec4( position, 1.0 );
			}`,fragmentShader:`
			precision highp float;

			uniform sampler2D tDiffuse;

			varying vec2 vUv;

			#include <tonemapping_pars_fragment>
			#include <colorspace_pars_fragment>

			void main() {
				gl_FragColor = texture2D( tDiffuse, vUv );

				#ifdef LINEAR_TONE_MAPPING
					gl_FragColor.rgb = LinearToneMapping( gl_FragColor.rgb );
				#elif defined( REINHARD_TONE_MAPPING )
					gl_FragColor.rgb = ReinhardToneMapping( gl_FragColor.rgb );
				#elif defined( CINEON_TONE_MAPPING )
					gl_FragColor.rgb = CineonToneMapping( gl_FragColor.rgb );
				#elif defined( ACES_FILMIC_TONE_MAPPING )
					gl_FragColor.rgb = ACESFilmicToneMapping( gl_FragColor.rgb );
				#elif defined( AGX_TONE_MAPPING )
					gl_FragColor.rgb = AgXToneMapping( gl_FragColor.rgb );
				#elif defined( NEUTRAL_TONE_MAPPING )
					gl_FragColor.rgb = NeutralToneMapping( gl_FragColor.rgb );
				#elif defined( CUSTOM_TONE_MAPPING )
					gl_FragColor.rgb = CustomToneMapping( gl_FragColor.rgb );
				#endif

				#ifdef SRGB_TRANSFER
					gl_FragColor = sRGBTransferOETF( gl_FragColor );
				#endif
			}`,depthTest:!1,depthWrite:!1}),u=new Ii(h,d),m=new $o(-1,1,1,-1,0,1),g=null,_=null,f=!1,p,S=null,T=[],w=!1;this.setSize=function(R,E){a.setSize(R,E),o!==null&&o.setSize(R,E),l!==null&&l.setSize(R,E);for(let x=0;x<T.length;x++){let b=T[x];b.setSize&&b.setSize(R,E)}},this.setEffects=function(R){T=R,w=T.length>0&&T[0].isRenderPass===!0;let E=a.width,x=a.height;T.length>0&&o===null&&(o=new ti(E,x,{type:yi,depthBuffer:!1,stencilBuffer:!1}),l=new ti(E,x,{type:yi,depthBuffer:!1,stencilBuffer:!1}));let b=s===!0&&T.some(k=>k.needsDepthTexture===!0);b!==(a.depthTexture!==null)&&(b===!0&&c===null&&(c=new Ji(E,x),r===!0&&(c.format=Qi,c.type=ts)),a.dispose(),a.depthTexture=b?c:null,a.resolveDepthBuffer=b,a.storeMultisampledDepthBuffer=b);for(let k=0;k<T.length;k++){let I=T[k];I.setSize&&I.setSize(E,x),b&&I.needsDepthTexture===!0&&I.setDepthTexture&&I.setDepthTexture(c)}},this.begin=function(R,E){if(f||R.toneMapping===Ni&&T.length===0)return!1;if(S=E,E!==null){let x=E.width,b=E.height;(a.width!==x||a.height!==b)&&this.setSize(x,b)}return w===!1&&R.setRenderTarget(a),p=R.toneMapping,R.toneMapping=Ni,!0},this.hasRenderPass=function(){return w},this.end=function(R,E){R.toneMapping=p,f=!0;let x=a,b=o;for(let k=0;k<T.length;k++){let I=T[k];I.enabled!==!1&&(I.render(R,b,x,E),I.needsSwap!==!1&&(x=b,b=b===o?l:o))}if(g!==R.outputColorSpace||_!==R.toneMapping){g=R.outputColorSpace,_=R.toneMapping,d.defines={},Xt.getTransfer(g)===Kt&&(d.defines.SRGB_TRANSFER="");let k=vM[_];k&&(d.defines[k]=""),d.needsUpdate=!0}d.uniforms.tDiffuse.value=x.texture,R.setRenderTarget(S),R.render(u,m),S=null,f=!1},this.isCompositing=function(){return f},this.dispose=function(){a.dispose(),o!==null&&o.dispose(),l!==null&&l.dispose(),h.dispose(),d.dispose()}}var Hm=new qe,Vm=new Ji(1,1),Gm=new Nr(1),Wm=new Rr,Xm=new Ro,qm=new Dr,vm=[],Sm=[],Mm=new Float32Array(16),bm=new Float32Array(9),wm=new Float32Array(4);function Xs(i,t,e){let n=i[0];if(n<=0||n>0)return i;let s=t*e,r=vm[s];if(r===void 0&&(r=new Float32Array(s),vm[s]=r),t!==0){n.toArray(r,0);for(let a=1,o=0;a!==t;++a)o+=e,i[a].toArray(r,o)}return r}function Me(i,t){if(i.length!==t.length)return!1;for(let e=0,n=i.length;e<n;e++)if(i[e]!==t[e])return!1;return!0}function be(i,t){for(let e=0,n=t.length;e<n;e++)i[e]=t[e]}function kl(i,t){let e=Sm[t];e===void 0&&(e=new Int32Array(t),Sm[t]=e);for(let n=0;n!==t;++n)e[n]=i.allocateTextureUnit();return e}function MM(i,t){let e=this.cache;e[0]!==t&&(i.uniform1f(this.addr,t),e[0]=t)}function bM(i,t){let e=this.cache;if(t.x!==void 0)(e[0]!==t.x||e[1]!==t.y)&&(i.uniform2f(this.addr,t.x,t.y),e[0]=t.x,e[1]=t.y);else{if(Me(e,t))return;i.uniform2fv(this.addr,t),be(e,t)}}function wM(i,t){let e=this.cache;if(t.x!==void 0)(e[0]!==t.x||e[1]!==t.y||e[2]!==t.z)&&(i.uniform3f(this.addr,t.x,t.y,t.z),e[0]=t.x,e[1]=t.y,e[2]=t.z);else if(t.r!==void 0)(e[0]!==t.r||e[1]!==t.g||e[2]!==t.b)&&(i.uniform3f(this.addr,t.r,t.g,t.b),e[0]=t.r,e[1]=t.g,e[2]=t.b);else{if(Me(e,t))return;i.uniform3fv(this.addr,t),be(e,t)}}function EM(i,t){let e=this.cache;if(t.x!==void 0)(e[0]!==t.x||e[1]!==t.y||e[2]!==t.z||e[3]!==t.w)&&(i.uniform4f(this.addr,t.x,t.y,t.z,t.w),e[0]=t.x,e[1]=t.y,e[2]=t.z,e[3]=t.w);else{if(Me(e,t))return;i.uniform4fv(this.addr,t),be(e,t)}}function TM(i,t){let e=this.cache,n=t.elements;if(n===void 0){if(Me(e,t))return;i.uniformMatrix2fv(this.addr,!1,t),be(e,t)}else{if(Me(e,n))return;wm.set(n),i.uniformMatrix2fv(this.addr,!1,wm),be(e,n)}}function AM(i,t){let e=this.cache,n=t.elements;if(n===void 0){if(Me(e,t))return;i.uniformMatrix3fv(this.addr,!1,t),be(e,t)}else{if(Me(e,n))return;bm.set(n),i.uniformMatrix3fv(this.addr,!1,bm),be(e,n)}}function RM(i,t){let e=this.cache,n=t.elements;if(n===void 0){if(Me(e,t))return;i.uniformMatrix4fv(this.addr,!1,t),be(e,t)}else{if(Me(e,n))return;Mm.set(n),i.uniformMatrix4fv(this.addr,!1,Mm),be(e,n)}}function CM(i,t){let e=this.cache;e[0]!==t&&(i.uniform1i(this.addr,t),e[0]=t)}function PM(i,t){let e=this.cache;if(t.x!==void 0)(e[0]!==t.x||e[1]!==t.y)&&(i.uniform2i(this.addr,t.x,t.y),e[0]=t.x,e[1]=t.y);else{if(Me(e,t))return;i.uniform2iv(this.addr,t),be(e,t)}}function IM(i,t){let e=this.cache;if(t.x!==void 0)(e[0]!==t.x||e[1]!==t.y||e[2]!==t.z)&&(i.uniform3i(this.addr,t.x,t.y,t.z),e[0]=t.x,e[1]=t.y,e[2]=t.z);else{if(Me(e,t))return;i.uniform3iv(this.addr,t),be(e,t)}}function LM(i,t){let e=this.cache;if(t.x!==void 0)(e[0]!==t.x||e[1]!==t.y||e[2]!==t.z||e[3]!==t.w)&&(i.uniform4i(this.addr,t.x,t.y,t.z,t.w),e[0]=t.x,e[1]=t.y,e[2]=t.z,e[3]=t.w);else{if(Me(e,t))return;i.uniform4iv(this.addr,t),be(e,t)}}function DM(i,t){let e=this.cache;e[0]!==t&&(i.uniform1ui(this.addr,t),e[0]=t)}function NM(i,t){let e=this.cache;if(t.x!==void 0)(e[0]!==t.x||e[1]!==t.y)&&(i.uniform2ui(this.addr,t.x,t.y),e[0]=t.x,e[1]=t.y);else{if(Me(e,t))return;i.uniform2uiv(this.addr,t),be(e,t)}}function OM(i,t){let e=this.cache;if(t.x!==void 0)(e[0]!==t.x||e[1]!==t.y||e[2]!==t.z)&&(i.uniform3ui(this.addr,t.x,t.y,t.z),e[0]=t.x,e[1]=t.y,e[2]=t.z);else{if(Me(e,t))return;i.uniform3uiv(this.addr,t),be(e,t)}}function UM(i,t){let e=this.cache;if(t.x!==void 0)(e[0]!==t.x||e[1]!==t.y||e[2]!==t.z||e[3]!==t.w)&&(i.uniform4ui(this.addr,t.x,t.y,t.z,t.w),e[0]=t.x,e[1]=t.y,e[2]=t.z,e[3]=t.w);else{if(Me(e,t))return;i.uniform4uiv(this.addr,t),be(e,t)}}function Bl(i){return i.version===0&&(i.compareFunction=Qh,i.needsUpdate=!0),i}function FM(i,t,e){let n=this.cache,s=e.allocateTextureUnit();n[0]!==s&&(i.uniform1i(this.addr,s),n[0]=s);let r;this.type===i.SAMPLER_2D_SHADOW?r=Bl(Vm):r=Hm,e.setTexture2D(t||r,s)}function kM(i,t,e){let n=this.cache,s=e.allocateTextureUnit();n[0]!==s&&(i.uniform1i(this.addr,s),n[0]=s),e.setTexture3D(t||Xm,s)}function BM(i,t,e){let n=this.cache,s=e.allocateTextureUnit();n[0]!==s&&(i.uniform1i(this.addr,s),n[0]=s);let r;this.type===i.SAMPLER_CUBE_SHADOW?r=Bl(Gm):r=qm,e.setTextureCube(t||r,s)}function zM(i,t,e){let n=this.cache,s=e.allocateTextureUnit();n[0]!==s&&(i.uniform1i(this.addr,s),n[0]=s),e.setTexture2DArray(t||Wm,s)}function HM(i){switch(i){case 5126:return MM;case 35664:return bM;case 35665:return wM;case 35666:return EM;case 35674:return TM;case 35675:return AM;case 35676:return RM;case 5124:case 35670:return CM;case 35667:case 35671:return PM;case 35668:case 35672:return IM;case 35669:case 35673:return LM;case 5125:return DM;case 36294:return NM;case 36295:return OM;case 36296:return UM;case 35678:case 36198:case 36298:case 36306:case 35682:return FM;case 35679:case 36299:case 36307:return kM;case 35680:case 36300:case 36308:case 36293:return BM;case 36289:case 36303:case 36311:case 36292:return zM}}function VM(i,t){i.uniform1fv(this.addr,t)}function GM(i,t){let e=Xs(t,this.size,2);i.uniform2fv(this.addr,e)}function WM(i,t){let e=Xs(t,this.size,3);i.uniform3fv(this.addr,e)}function XM(i,t){let e=Xs(t,this.size,4);i.uniform4fv(this.addr,e)}function qM(i,t){let e=Xs(t,this.size,4);i.uniformMatrix2fv(this.addr,!1,e)}function $M(i,t){let e=Xs(t,this.size,9);i.uniformMatrix3fv(this.addr,!1,e)}function YM(i,t){let e=Xs(t,this.size,16);i.uniformMatrix4fv(this.addr,!1,e)}function ZM(i,t){i.uniform1iv(this.addr,t)}function KM(i,t){i.uniform2iv(this.addr,t)}function JM(i,t){i.uniform3iv(this.addr,t)}function jM(i,t){i.uniform4iv(this.addr,t)}function QM(i,t){i.uniform1uiv(this.addr,t)}function tb(i,t){i.uniform2uiv(this.addr,t)}function eb(i,t){i.uniform3uiv(this.addr,t)}function ib(i,t){i.uniform4uiv(this.addr,t)}function nb(i,t,e){let n=this.cache,s=t.length,r=kl(e,s);Me(n,r)||(i.uniform1iv(this.addr,r),be(n,r));let a;this.type===i.SAMPLER_2D_SHADOW?a=Bl(Vm):a=Hm;for(let o=0;o!==s;++o)e.setTexture2D(t[o]||a,r[o])}function sb(i,t,e){let n=this.cache,s=t.length,r=kl(e,s);Me(n,r)||(i.uniform1iv(this.addr,r),be(n,r));for(let a=0;a!==s;++a)e.setTexture3D(t[a]||Xm,r[a])}function rb(i,t,e){let n=this.cache,s=t.length,r=kl(e,s);Me(n,r)||(i.uniform1iv(this.addr,r),be(n,r));let a;this.type===i.SAMPLER_CUBE_SHADOW?a=Bl(Gm):a=qm;for(let o=0;o!==s;++o)e.setTextureCube(t[o]||a,r[o])}function ab(i,t,e){let n=this.cache,s=t.length,r=kl(e,s);Me(n,r)||(i.uniform1iv(this.addr,r),be(n,r));for(let a=0;a!==s;++a)e.setTexture2DArray(t[a]||Wm,r[a])}function ob(i){switch(i){case 5126:return VM;case 35664:return GM;case 35665:return WM;case 35666:return XM;case 35674:return qM;case 35675:return $M;case 35676:return YM;case 5124:case 35670:return ZM;case 35667:case 35671:return KM;case 35668:case 35672:return JM;case 35669:case 35673:return jM;case 5125:return QM;case 36294:return tb;case 36295:return eb;case 36296:return ib;case 35678:case 36198:case 36298:case 36306:case 35682:return nb;case 35679:case 36299:case 36307:return sb;case 35680:case 36300:case 36308:case 36293:return rb;case 36289:case 36303:case 36311:case 36292:return ab}}var du=class{constructor(t,e,n){this.id=t,this.addr=n,this.cache=[],this.type=e.type,this.setValue=HM(e.type)}},fu=class{constructor(t,e,n){this.id=t,this.addr=n,this.cache=[],this.type=e.type,this.size=e.size,this.setValue=ob(e.type)}},pu=class{constructor(t){this.id=t,this.seq=[],this.map={}}setValue(t,e,n){let s=this.seq;for(let r=0,a=s.length;r!==a;++r){let o=s[r];o.setValue(t,e[o.id],n)}}},hu=/(\w+)(\])?(\[|\.)?/g;function Em(i,t){i.seq.push(t),i.map[t.id]=t}function lb(i,t,e){let n=i.name,s=n.length;for(hu.lastIndex=0;;){let r=hu.exec(n),a=hu.lastIndex,o=r[1],l=r[2]==="]",c=r[3];if(l&&(o=o|0),c===void 0||c==="["&&a+2===s){Em(e,c===void 0?new du(o,i,t):new fu(o,i,t));break}else{let d=e.map[o];d===void 0&&(d=new pu(o),Em(e,d)),e=d}}}var Ws=class{constructor(t,e){this.seq=[],this.map={};let n=t.getProgramParameter(e,t.ACTIVE_UNIFORMS);for(let a=0;a<n;++a){let o=t.getActiveUniform(e,a),l=t.getUniformLocation(e,o.name);lb(o,l,this)}let s=[],r=[];for(let a of this.seq)a.type===t.SAMPLER_2D_SHADOW||a.type===t.SAMPLER_CUBE_SHADOW||a.type===t.SAMPLER_2D_ARRAY_SHADOW?s.push(a):r.push(a);s.length>0&&(this.seq=s.concat(r))}setValue(t,e,n,s){let r=this.map[e];r!==void 0&&r.setValue(t,n,s)}setOptional(t,e,n){let s=e[n];s!==void 0&&this.setValue(t,n,s)}static upload(t,e,n,s){for(let r=0,a=e.length;r!==a;++r){let o=e[r],l=n[o.id];l.needsUpdate!==!1&&o.setValue(t,l.value,s)}}static seqWithValue(t,e){let n=[];for(let s=0,r=t.length;s!==r;++s){let a=t[s];a.id in e&&n.push(a)}return n}};function Tm(i,t,e){let n=i.createShader(t);return i.shaderSource(n,e),i.compileShader(n),n}var cb=37297,hb=0;function ub(i,t){let e=i.split(`
`),n=[],s=Math.max(t-6,0),r=Math.min(t+6,e.length);for(let a=s;a<r;a++){let o=a+1;n.push(`${o===t?">":" "} ${o}: ${e[a]}`)}return n.join(`
`)}var Am=new Pt;function db(i){Xt._getMatrix(Am,Xt.workingColorSpace,i);let t=`mat3( ${Am.elements.map(e=>e.toFixed(4))} )`;switch(Xt.getTransfer(i)){case Er:return[t,"LinearTransferOETF"];case Kt:return[t,"sRGBTransferOETF"];default:return Et("WebGLProgram: Unsupported color space: ",i),[t,"LinearTransferOETF"]}}function Rm(i,t,e){let n=i.getShaderParameter(t,i.COMPILE_STATUS),r=(i.getShaderInfoLog(t)||"").trim();if(n&&r==="")return"";let a=/ERROR: 0:(\d+)/.exec(r);if(a){let o=parseInt(a[1]);return e.toUpperCase()+`

`+r+`

`+ub(i.getShaderSource(t),o)}else return r}function fb(i,t){let e=db(t);return[`vec4 ${i}( vec4 value ) {`,`	return ${e[1]}( vec4( ${e[0]} * value.rgb, value.a ) );`,"}"].join(`
`)}var pb={[Oh]:"Linear",[Uh]:"Reinhard",[Fh]:"Cineon",[kh]:"ACESFilmic",[zh]:"AgX",[Hh]:"Neutral",[Bh]:"Custom"};function mb(i,t){let e=pb[t];return e===void 0?(Et("WebGLProgram: Unsupported toneMapping:",t),"vec3 "+i+"( vec3 color ) { return LinearToneMapping( color ); }"):"vec3 "+i+"( vec3 color ) { return "+e+"ToneMapping( color ); }"}var Ol=new N;function gb(){Xt.getLuminanceCoefficients(Ol);let i=Ol.x.toFixed(4),t=Ol.y.toFixed(4),e=Ol.z.toFixed(4);return["float luminance( const in vec3 rgb ) {",`	const vec3 weights = vec3( ${i}, ${t}, ${e} );`,"	return dot( weights, rgb );","}"].join(`
`)}function _b(i){return[i.extensionClipCullDistance?"#extension GL_ANGLE_clip_cull_distance : require":"",i.extensionMultiDraw?"#extension GL_ANGLE_multi_draw : require":""].filter(Kr).join(`
`)}function xb(i){let t=[];for(let e in i){let n=i[e];n!==!1&&t.push("#define "+e+" "+n)}return t.join(`
`)}function yb(i,t){let e={},n=i.getProgramParameter(t,i.ACTIVE_ATTRIBUTES);for(let s=0;s<n;s++){let r=i.getActiveAttrib(t,s),a=r.name,o=1;r.type===i.FLOAT_MAT2&&(o=2),r.type===i.FLOAT_MAT3&&(o=3),r.type===i.FLOAT_MAT4&&(o=4),e[a]={type:r.type,location:i.getAttribLocation(t,a),locationSize:o}}return e}function Kr(i){return i!==""}function Cm(i,t){let e=t.numSpotLightShadows+t.numSpotLightMaps-t.numSpotLightShadowsWithMaps;return i.replace(/NUM_SUN_LIGHTS/g,t.numSunLights).replace(/NUM_DIR_LIGHTS/g,t.numDirLights).replace(/NUM_SPOT_LIGHTS/g,t.numSpotLights).replace(/NUM_SPOT_LIGHT_MAPS/g,t.numSpotLightMaps).replace(/NUM_SPOT_LIGHT_COORDS/g,e).replace(/NUM_RECT_AREA_LIGHTS/g,t.numRectAreaLights).replace(/NUM_POINT_LIGHTS/g,t.numPointLights).replace(/NUM_HEMI_LIGHTS/g,t.numHemiLights).replace(/NUM_SUN_LIGHT_SHADOWS/g,t.numSunLightShadows).replace(/NUM_DIR_LIGHT_SHADOWS/g,t.numDirLightShadows).replace(/NUM_SPOT_LIGHT_SHADOWS_WITH_MAPS/g,t.numSpotLightShadowsWithMaps).replace(/NUM_SPOT_LIGHT_SHADOWS/g,t.numSpotLightShadows).replace(/NUM_POINT_LIGHT_SHADOWS/g,t.numPointLightShadows).replace(/NUM_LIGHT_PROBE_GRIDS/g,t.numLightProbeGrids)}function Pm(i,t){return i.replace(/NUM_CLIPPING_PLANES/g,t.numClippingPlanes).replace(/UNION_CLIPPING_PLANES/g,t.numClippingPlanes-t.numClipIntersection)}var vb=/^[ \t]*#include +<([\w\d./]+)>/gm;function mu(i){return i.replace(vb,Sb)}function Sb(i,t){let e=Bt[t];if(e===void 0)throw new Error("THREE.WebGLProgram: Can not resolve #include <"+t+">");return mu(e)}var Mb=/#pragma unroll_loop_start\s+for\s*\(\s*int\s+i\s*=\s*(\d+)\s*;\s*i\s*<\s*(\d+)\s*;\s*i\s*\+\+\s*\)\s*{([\s\S]+?)}\s+#pragma unroll_loop_end/g;function Im(i){return i.replace(Mb,bb)}function bb(i,t,e,n){let s="";for(let r=parseInt(t);r<parseInt(e);r++)s+=n.replace(/\[\s*i\s*\]/g,"[ "+r+" ]").replace(/UNROLLED_LOOP_INDEX/g,r);return s}function Lm(i){let t=`precision ${i.precision} float;
	precision ${i.precision} int;
	precision ${i.precision} sampler2D;
	precision ${i.precision} samplerCube;
	precision ${i.precision} sampler3D;
	precision ${i.precision} sampler2DArray;
	precision ${i.precision} sampler2DShadow;
	precision ${i.precision} samplerCubeShadow;
	precision ${i.precision} sampler2DArrayShadow;
	precision ${i.precision} isampler2D;
	precision ${i.precision} isampler3D;
	precision ${i.precision} isamplerCube;
	precision ${i.precision} isampler2DArray;
	precision ${i.precision} usampler2D;
	precision ${i.precision} usampler3D;
	precision ${i.precision} usamplerCube;
	precision ${i.precision} usampler2DArray;
	`;return i.precision==="highp"?t+=`
#define HIGH_PRECISION`:i.precision==="mediump"?t+=`
#define MEDIUM_PRECISION`:i.precision==="lowp"&&(t+=`
#define LOW_PRECISION`),t}var wb={[Hr]:"SHADOWMAP_TYPE_PCF",[Bs]:"SHADOWMAP_TYPE_VSM"};function Eb(i){return wb[i.shadowMapType]||"SHADOWMAP_TYPE_BASIC"}var Tb={[Hs]:"ENVMAP_MODE_REFRACTION"};function Ab(i){return i.envMap===!1?"ENVMAP_MODE_REFLECTION":Tb[i.envMapMode]||"ENVMAP_MODE_REFLECTION"}var Rb={[Nh]:"ENVMAP_BLENDING_MULTIPLY",[Yp]:"ENVMAP_BLENDING_MIX",[Zp]:"ENVMAP_BLENDING_ADD"};function Cb(i){return i.envMap===!1?"ENVMAP_BLENDING_NONE":Rb[i.combine]||"ENVMAP_BLENDING_NONE"}function Pb(i,t,e,n){let s=i.getContext(),r=e.defines,a=e.vertexShader,o=e.fragmentShader,l=Eb(e),c=e.envMapPMREM===!0?"ENVMAP_TYPE_PMREM":"ENVMAP_TYPE_CUBE",h=Ab(e),d=Cb(e),u=_b(e),m=xb(r),g=s.createProgram(),_,f,p=e.glslVersion?"#version "+e.glslVersion+`
`:"";e.isRawShaderMaterial?(_=["#define SHADER_TYPE "+e.shaderType,"#define SHADER_NAME "+e.shaderName,m].filter(Kr).join(`
`),_.length>0&&(_+=`
`),f=["#define SHADER_TYPE "+e.shaderType,"#define SHADER_NAME "+e.shaderName,m].filter(Kr).join(`
`),f.length>0&&(f+=`
`)):(_=[Lm(e),"#define SHADER_TYPE "+e.shaderType,"#define SHADER_NAME "+e.shaderName,m,e.extensionClipCullDistance?"#define USE_CLIP_DISTANCE":"",e.batching?"#define USE_BATCHING":"",e.batchingColor?"#define USE_BATCHING_COLOR":"",e.instancing?"#define USE_INSTANCING":"",e.instancingColor?"#define USE_INSTANCING_COLOR":"",e.instancingMorph?"#define USE_INSTANCING_MORPH":"",e.useFog&&e.fog?"#define USE_FOG":"",e.useFog&&e.fogExp2?"#define FOG_EXP2":"",e.map?"#define USE_MAP":"",e.envMap?"#define USE_ENVMAP":"",e.envMap?"#define "+h:"",e.lightMap?"#define USE_LIGHTMAP":"",e.aoMap?"#define USE_AOMAP":"",e.bumpMap?"#define USE_BUMPMAP":"",e.normalMap?"#define USE_NORMALMAP":"",e.normalMapObjectSpace?"#define USE_NORMALMAP_OBJECTSPACE":"",e.normalMapTangentSpace?"#define USE_NORMALMAP_TANGENTSPACE":"",e.displacementMap?"#define USE_DISPLACEMENTMAP":"",e.emissiveMap?"#define USE_EMISSIVEMAP":"",e.anisotropy?"#define USE_ANISOTROPY":"",e.anisotropyMap?"#define USE_ANISOTROPYMAP":"",e.clearcoatMap?"#define USE_CLEARCOATMAP":"",e.clearcoatRoughnessMap?"#define USE_CLEARCOAT_ROUGHNESSMAP":"",e.clearcoatNormalMap?"#define USE_CLEARCOAT_NORMALMAP":"",e.diffuseRoughnessMap?"#define USE_DIFFUSE_ROUGHNESSMAP":"",e.iridescenceMap?"#define USE_IRIDESCENCEMAP":"",e.iridescenceThicknessMap?"#define USE_IRIDESCENCE_THICKNESSMAP":"",e.specularMap?"#define USE_SPECULARMAP":"",e.specularColorMap?"#define USE_SPECULAR_COLORMAP":"",e.specularIntensityMap?"#define USE_SPECULAR_INTENSITYMAP":"",e.roughnessMap?"#define USE_ROUGHNESSMAP":"",e.metalnessMap?"#define USE_METALNESSMAP":"",e.alphaMap?"#define USE_ALPHAMAP":"",e.alphaHash?"#define USE_ALPHAHASH":"",e.transmission?"#define USE_TRANSMISSION":"",e.transmissionMap?"#define USE_TRANSMISSIONMAP":"",e.thicknessMap?"#define USE_THICKNESSMAP":"",e.sheenColorMap?"#define USE_SHEEN_COLORMAP":"",e.sheenRoughnessMap?"#define USE_SHEEN_ROUGHNESSMAP":"",e.mapUv?"#define MAP_UV "+e.mapUv:"",e.alphaMapUv?"#define ALPHAMAP_UV "+e.alphaMapUv:"",e.lightMapUv?"#define LIGHTMAP_UV "+e.lightMapUv:"",e.aoMapUv?"#define AOMAP_UV "+e.aoMapUv:"",e.emissiveMapUv?"#define EMISSIVEMAP_UV "+e.emissiveMapUv:"",e.bumpMapUv?"#define BUMPMAP_UV "+e.bumpMapUv:"",e.normalMapUv?"#define NORMALMAP_UV "+e.normalMapUv:"",e.displacementMapUv?"#define DISPLACEMENTMAP_UV "+e.displacementMapUv:"",e.metalnessMapUv?"#define METALNESSMAP_UV "+e.metalnessMapUv:"",e.roughnessMapUv?"#define ROUGHNESSMAP_UV "+e.roughnessMapUv:"",e.anisotropyMapUv?"#define ANISOTROPYMAP_UV "+e.anisotropyMapUv:"",e.clearcoatMapUv?"#define CLEARCOATMAP_UV "+e.clearcoatMapUv:"",e.clearcoatNormalMapUv?"#define CLEARCOAT_NORMALMAP_UV "+e.clearcoatNormalMapUv:"",e.clearcoatRoughnessMapUv?"#define CLEARCOAT_ROUGHNESSMAP_UV "+e.clearcoatRoughnessMapUv:"",e.diffuseRoughnessMapUv?"#define DIFFUSE_ROUGHNESSMAP_UV "+e.diffuseRoughnessMapUv:"",e.iridescenceMapUv?"#define IRIDESCENCEMAP_UV "+e.iridescenceMapUv:"",e.iridescenceThicknessMapUv?"#define IRIDESCENCE_THICKNESSMAP_UV "+e.iridescenceThicknessMapUv:"",e.sheenColorMapUv?"#define SHEEN_COLORMAP_UV "+e.sheenColorMapUv:"",e.sheenRoughnessMapUv?"#define SHEEN_ROUGHNESSMAP_UV "+e.sheenRoughnessMapUv:"",e.specularMapUv?"#define SPECULARMAP_UV "+e.specularMapUv:"",e.specularColorMapUv?"#define SPECULAR_COLORMAP_UV "+e.specularColorMapUv:"",e.specularIntensityMapUv?"#define SPECULAR_INTENSITYMAP_UV "+e.specularIntensityMapUv:"",e.transmissionMapUv?"#define TRANSMISSIONMAP_UV "+e.transmissionMapUv:"",e.thicknessMapUv?"#define THICKNESSMAP_UV "+e.thicknessMapUv:"",e.vertexTangents&&e.flatShading===!1?"#define USE_TANGENT":"",e.vertexNormals?"#define HAS_NORMAL":"",e.vertexColors?"#define USE_COLOR":"",e.vertexAlphas?"#define USE_COLOR_ALPHA":"",e.vertexUv1s?"#define USE_UV1":"",e.vertexUv2s?"#define USE_UV2":"",e.vertexUv3s?"#define USE_UV3":"",e.pointsUvs?"#define USE_POINTS_UV":"",e.flatShading?"#define FLAT_SHADED":"",e.skinning?"#define USE_SKINNING":"",e.morphTargets?"#define USE_MORPHTARGETS":"",e.morphNormals&&e.flatShading===!1?"#define USE_MORPHNORMALS":"",e.morphColors?"#define USE_MORPHCOLORS":"",e.morphTargetsCount>0?"#define MORPHTARGETS_TEXTURE_STRIDE "+e.morphTextureStride:"",e.morphTargetsCount>0?"#define MORPHTARGETS_COUNT "+e.morphTargetsCount:"",e.doubleSided?"#define DOUBLE_SIDED":"",e.flipSided?"#define FLIP_SIDED":"",e.shadowMapEnabled?"#define USE_SHADOWMAP":"",e.shadowMapEnabled?"#define "+l:"",e.sizeAttenuation?"#define USE_SIZEATTENUATION":"",e.numLightProbes>0?"#define USE_LIGHT_PROBES":"",e.logarithmicDepthBuffer?"#define USE_LOGARITHMIC_DEPTH_BUFFER":"",e.reversedDepthBuffer?"#define USE_REVERSED_DEPTH_BUFFER":"","uniform mat4 modelMatrix;","uniform mat4 modelViewMatrix;","uniform mat4 projectionMatrix;","uniform mat4 viewMatrix;","uniform mat3 normalMatrix;","uniform vec3 cameraPosition;","uniform bool isOrthographic;","#ifdef USE_INSTANCING","	attribute mat4 instanceMatrix;","#endif","#ifdef USE_INSTANCING_COLOR","	attribute vec3 instanceColor;","#endif","#ifdef USE_INSTANCING_MORPH","	uniform sampler2D morphTexture;","#endif","attribute vec3 position;","attribute vec3 normal;","attribute vec2 uv;","#ifdef USE_UV1","	attribute vec2 uv1;","#endif","#ifdef USE_UV2","	attribute vec2 uv2;","#endif","#ifdef USE_UV3","	attribute vec2 uv3;","#endif","#ifdef USE_TANGENT","	attribute vec4 tangent;","#endif","#if defined( USE_COLOR_ALPHA )","	attribute vec4 color;","#elif defined( USE_COLOR )","	attribute vec3 color;","#endif","#ifdef USE_SKINNING","	attribute vec4 skinIndex;","	attribute vec4 skinWeight;","#endif",`
`].filter(Kr).join(`
`),f=[Lm(e),"#define SHADER_TYPE "+e.shaderType,"#define SHADER_NAME "+e.shaderName,m,e.useFog&&e.fog?"#define USE_FOG":"",e.useFog&&e.fogExp2?"#define FOG_EXP2":"",e.alphaToCoverage?"#define ALPHA_TO_COVERAGE":"",e.map?"#define USE_MAP":"",e.matcap?"#define USE_MATCAP":"",e.envMap?"#define USE_ENVMAP":"",e.envMap?"#define "+c:"",e.envMap?"#define "+h:"",e.envMap?"#define "+d:"",e.envMapPMREM?"#define ENVMAP_MAX_LOD "+e.envMapMaxLod+".0":"",e.envMapPMREM?"#define ENVMAP_SIZE "+e.envMapSize+".0":"",e.lightMap?"#define USE_LIGHTMAP":"",e.aoMap?"#define USE_AOMAP":"",e.bumpMap?"#define USE_BUMPMAP":"",e.normalMap?"#define USE_NORMALMAP":"",e.normalMapObjectSpace?"#define USE_NORMALMAP_OBJECTSPACE":"",e.normalMapTangentSpace?"#define USE_NORMALMAP_TANGENTSPACE":"",e.packedNormalMap?"#define USE_PACKED_NORMALMAP":"",e.emissiveMap?"#define USE_EMISSIVEMAP":"",e.anisotropy?"#define USE_ANISOTROPY":"",e.anisotropyMap?"#define USE_ANISOTROPYMAP":"",e.clearcoat?"#define USE_CLEARCOAT":"",e.clearcoatMap?"#define USE_CLEARCOATMAP":"",e.clearcoatRoughnessMap?"#define USE_CLEARCOAT_ROUGHNESSMAP":"",e.clearcoatNormalMap?"#define USE_CLEARCOAT_NORMALMAP":"",e.diffuseRoughness?"#define USE_DIFFUSE_ROUGHNESS":"",e.diffuseRoughnessMap?"#define USE_DIFFUSE_ROUGHNESSMAP":"",e.dispersion?"#define USE_DISPERSION":"",e.retroreflection?"#define USE_RETROREFLECTION":"",e.iridescence?"#define USE_IRIDESCENCE":"",e.iridescenceMap?"#define USE_IRIDESCENCEMAP":"",e.iridescenceThicknessMap?"#define USE_IRIDESCENCE_THICKNESSMAP":"",e.specularMap?"#define USE_SPECULARMAP":"",e.specularColorMap?"#define USE_SPECULAR_COLORMAP":"",e.specularIntensityMap?"#define USE_SPECULAR_INTENSITYMAP":"",e.roughnessMap?"#define USE_ROUGHNESSMAP":"",e.metalnessMap?"#define USE_METALNESSMAP":"",e.alphaMap?"#define USE_ALPHAMAP":"",e.alphaTest?"#define USE_ALPHATEST":"",e.alphaHash?"#define USE_ALPHAHASH":"",e.sheen?"#define USE_SHEEN":"",e.sheenColorMap?"#define USE_SHEEN_COLORMAP":"",e.sheenRoughnessMap?"#define USE_SHEEN_ROUGHNESSMAP":"",e.transmission?"#define USE_TRANSMISSION":"",e.transmissionMap?"#define USE_TRANSMISSIONMAP":"",e.thicknessMap?"#define USE_THICKNESSMAP":"",e.vertexTangents&&e.flatShading===!1?"#define USE_TANGENT":"",e.vertexColors||e.instancingColor?"#define USE_COLOR":"",e.vertexAlphas||e.batchingColor?"#define USE_COLOR_ALPHA":"",e.vertexUv1s?"#define USE_UV1":"",e.vertexUv2s?"#define USE_UV2":"",e.vertexUv3s?"#define USE_UV3":"",e.pointsUvs?"#define USE_POINTS_UV":"",e.gradientMap?"#define USE_GRADIENTMAP":"",e.flatShading?"#define FLAT_SHADED":"",e.doubleSided?"#define DOUBLE_SIDED":"",e.flipSided?"#define FLIP_SIDED":"",e.shadowMapEnabled?"#define USE_SHADOWMAP":"",e.shadowMapEnabled?"#define "+l:"",e.premultipliedAlpha?"#define PREMULTIPLIED_ALPHA":"",e.numLightProbes>0?"#define USE_LIGHT_PROBES":"",e.decodeVideoTexture?"#define DECODE_VIDEO_TEXTURE":"",e.decodeVideoTextureEmissive?"#define DECODE_VIDEO_TEXTURE_EMISSIVE":"",e.logarithmicDepthBuffer?"#define USE_LOGARITHMIC_DEPTH_BUFFER":"",e.reversedDepthBuffer?"#define USE_REVERSED_DEPTH_BUFFER":"","uniform mat4 viewMatrix;","uniform vec3 cameraPosition;","uniform bool isOrthographic;",e.toneMapping!==Ni?"#define TONE_MAPPING":"",e.toneMapping!==Ni?Bt.tonemapping_pars_fragment:"",e.toneMapping!==Ni?mb("toneMapping",e.toneMapping):"",e.dithering?"#define DITHERING":"",e.opaque?"#define OPAQUE":"",Bt.colorspace_pars_fragment,fb("linearToOutputTexel",e.outputColorSpace),gb(),e.useDepthPacking?"#define DEPTH_PACKING "+e.depthPacking:"",`
`].filter(Kr).join(`
`)),a=mu(a),a=Cm(a,e),a=Pm(a,e),o=mu(o),o=Cm(o,e),o=Pm(o,e),a=Im(a),o=Im(o),e.isRawShaderMaterial!==!0&&(p=`#version 300 es
`,_=[u,"#define attribute in","#define varying out","#define texture2D texture"].join(`
`)+`
`+_,f=["#define varying in",e.glslVersion===tu?"":"layout(location = 0) out highp vec4 pc_fragColor;",e.glslVersion===tu?"":"#define gl_FragColor pc_fragColor","#define gl_FragDepthEXT gl_FragDepth","#define texture2D texture","#define textureCube texture","#define texture2DProj textureProj","#define texture2DLodEXT textureLod","#define texture2DProjLodEXT textureProjLod","#define textureCubeLodEXT textureLod","#define texture2DGradEXT textureGrad","#define texture2DProjGradEXT textureProjGrad","#define textureCubeGradEXT textureGrad"].join(`
`)+`
`+f);let S=p+_+a,T=p+f+o,w=Tm(s,s.VERTEX_SHADER,S),R=Tm(s,s.FRAGMENT_SHADER,T);s.attachShader(g,w),s.attachShader(g,R),e.index0AttributeName!==void 0?s.bindAttribLocation(g,0,e.index0AttributeName):e.hasPositionAttribute===!0&&s.bindAttribLocation(g,0,"position"),s.linkProgram(g);function E(I){if(i.debug.checkShaderErrors){let D=s.getProgramInfoLog(g)||"",z=s.getShaderInfoLog(w)||"",q=s.getShaderInfoLog(R)||"",P=D.trim(),W=z.trim(),K=q.trim(),H=!0,et=!0;if(s.getProgramParameter(g,s.LINK_STATUS)===!1)if(H=!1,typeof i.debug.onShaderError=="function")i.debug.onShaderError(s,g,w,R);else{let G=Rm(s,w,"vertex"),j=Rm(s,R,"fragment");Ct("WebGLProgram: Shader Error "+s.getError()+" - VALIDATE_STATUS "+s.getProgramParameter(g,s.VALIDATE_STATUS)+`

Material Name: `+I.name+`
Material Type: `+I.type+`

Program Info Log: `+P+`
`+G+`
`+j)}else P!==""?Et("WebGLProgram: Program Info Log:",P):(W===""||K==="")&&(et=!1);et&&(I.diagnostics={runnable:H,programLog:P,vertexShader:{log:W,prefix:_},fragmentShader:{log:K,prefix:f}})}s.deleteShader(w),s.deleteShader(R),x=new Ws(s,g),b=yb(s,g)}let x;this.getUniforms=function(){return x===void 0&&E(this),x};let b;this.getAttributes=function(){return b===void 0&&E(this),b};let k=e.rendererExtensionParallelShaderCompile===!1;return this.isReady=function(){return k===!1&&(k=s.getProgramParameter(g,cb)),k},this.destroy=function(){n.releaseStatesOfProgram(this),s.deleteProgram(g),this.program=void 0},this.type=e.shaderType,this.name=e.shaderName,this.id=hb++,this.cacheKey=t,this.usedTimes=1,this.program=g,this.vertexShader=w,this.fragmentShader=R,this}var Ib=0,gu=class{constructor(){this.shaderCache=new Map,this.materialCache=new Map}update(t,e,n){let s=this._getShaderCacheForMaterial(t);return s.has(e)===!1&&(s.add(e),e.usedTimes++),s.has(n)===!1&&(s.add(n),n.usedTimes++),this}remove(t){let e=this.materialCache.get(t);for(let n of e)n.usedTimes--,n.usedTimes===0&&this.shaderCache.delete(n.code);return this.materialCache.delete(t),this}getVertexShaderStage(t){return this._getShaderStage(t.vertexShader)}getFragmentShaderStage(t){return this._getShaderStage(t.fragmentShader)}dispose(){this.shaderCache.clear(),this.materialCache.clear()}_getShaderCacheForMaterial(t){let e=this.materialCache,n=e.get(t);return n===void 0&&(n=new Set,e.set(t,n)),n}_getShaderStage(t){let e=this.shaderCache,n=e.get(t);return n===void 0&&(n=new _u(t),e.set(t,n)),n}},_u=class{constructor(t){this.id=Ib++,this.code=t,this.usedTimes=0}};function Lb(i){return i===wn||i===$r||i===Yr}function Db(i,t,e,n,s,r){let a=new Cr,o=new gu,l=new Set,c=[],h=new Map,d=n.logarithmicDepthBuffer,u={MeshDepthMaterial:"depth",MeshDistanceMaterial:"distance",MeshNormalMaterial:"normal",MeshBasicMaterial:"basic",MeshLambertMaterial:"lambert",MeshPhongMaterial:"phong",MeshToonMaterial:"toon",MeshStandardMaterial:"physical",MeshPhysicalMaterial:"physical",MeshMatcapMaterial:"matcap",LineBasicMaterial:"basic",LineDashedMaterial:"dashed",PointsMaterial:"points",ShadowMaterial:"shadow",SpriteMaterial:"sprite"};function m(x){return l.add(x),x===0?"uv":`uv${x}`}function g(x,b,k,I,D,z){let q=I.fog,P=D.geometry,W=x.isMeshStandardMaterial||x.isMeshLambertMaterial||x.isMeshPhongMaterial?I.environment:null,K=x.isMeshStandardMaterial||x.isMeshLambertMaterial&&!x.envMap||x.isMeshPhongMaterial&&!x.envMap,H=t.get(x.envMap||W,K),et=u[x.type],G=n.precision;x.precision!==null&&(G=n.getMaxPrecision(x.precision),G!==x.precision&&Et("WebGLProgram.getParameters:",x.precision,"not supported, using",G,"instead."));let j=P.morphAttributes.position||P.morphAttributes.normal||P.morphAttributes.color,Q=j!==void 0?j.length:0,St=0;P.morphAttributes.position!==void 0&&(St=1),P.morphAttributes.normal!==void 0&&(St=2),P.morphAttributes.color!==void 0&&(St=3);let Lt,Y,pt,xt;if(et){let dt=Ui[et];Lt=dt.vertexShader,Y=dt.fragmentShader}else{Lt=x.vertexShader,Y=x.fragmentShader;let dt=o.getVertexShaderStage(x),jt=o.getFragmentShaderStage(x);o.update(x,dt,jt),pt=dt.id,xt=jt.id}let Tt=i.getRenderTarget(),mt=i.state.buffers.depth.getReversed(),Ut=D.isInstancedMesh===!0,ge=D.isBatchedMesh===!0,Rt=!!x.map,Jt=!!x.matcap,ee=!!H,Vt=ee&&H.isPMREMTexture===!0,Ie=!!x.aoMap,ye=!!x.lightMap,We=!!x.bumpMap&&x.wireframe===!1,le=!!x.normalMap,Si=!!x.displacementMap,Ee=!!x.emissiveMap,ni=!!x.metalnessMap,si=!!x.roughnessMap,ri=x.anisotropy>0,L=x.clearcoat>0,ai=x.diffuseRoughness>0,ae=x.dispersion>0,oe=x.retroreflectivity>0,ut=x.iridescence>0,ve=x.sheen>0,At=x.transmission>0,It=ri&&!!x.anisotropyMap,M=L&&!!x.clearcoatMap,y=L&&!!x.clearcoatNormalMap,U=L&&!!x.clearcoatRoughnessMap,tt=ai&&!!x.diffuseRoughnessMap,J=ut&&!!x.iridescenceMap,st=ut&&!!x.iridescenceThicknessMap,ct=ve&&!!x.sheenColorMap,X=ve&&!!x.sheenRoughnessMap,$=!!x.specularMap,at=!!x.specularColorMap,A=!!x.specularIntensityMap,Z=At&&!!x.transmissionMap,V=At&&!!x.thicknessMap,ot=!!x.gradientMap,nt=!!x.alphaMap,rt=x.alphaTest>0,bt=!!x.alphaHash,kt=!!x.extensions,it=Ni;x.toneMapped&&(Tt===null||Tt.isXRRenderTarget===!0)&&(it=i.toneMapping);let wt=Vt?H.isCompressedCubeTexture?H.image[0].mipmaps:H.mipmaps:null,Ft={shaderID:et,shaderType:x.type,shaderName:x.name,vertexShader:Lt,fragmentShader:Y,defines:x.defines,customVertexShaderID:pt,customFragmentShaderID:xt,isRawShaderMaterial:x.isRawShaderMaterial===!0,glslVersion:x.glslVersion,precision:G,batching:ge,batchingColor:ge&&D._colorsTexture!==null,instancing:Ut,instancingColor:Ut&&D.instanceColor!==null,instancingMorph:Ut&&D.morphTexture!==null,outputColorSpace:Tt===null?i.outputColorSpace:Tt.isXRRenderTarget===!0?Tt.texture.colorSpace:Xt.workingColorSpace,alphaToCoverage:!!x.alphaToCoverage,map:Rt,matcap:Jt,envMap:ee,envMapMode:ee&&H.mapping,envMapPMREM:Vt,envMapMaxLod:Vt?wt.length-1:null,envMapSize:Vt?wt[0].width:null,aoMap:Ie,lightMap:ye,bumpMap:We,normalMap:le,displacementMap:Si,emissiveMap:Ee,normalMapObjectSpace:le&&x.normalMapType===jp,normalMapTangentSpace:le&&x.normalMapType===Kh,packedNormalMap:le&&x.normalMapType===Kh&&Lb(x.normalMap.format),metalnessMap:ni,roughnessMap:si,anisotropy:ri,anisotropyMap:It,clearcoat:L,clearcoatMap:M,clearcoatNormalMap:y,clearcoatRoughnessMap:U,diffuseRoughness:ai,diffuseRoughnessMap:tt,dispersion:ae,retroreflection:oe,iridescence:ut,iridescenceMap:J,iridescenceThicknessMap:st,sheen:ve,sheenColorMap:ct,sheenRoughnessMap:X,specularMap:$,specularColorMap:at,specularIntensityMap:A,transmission:At,transmissionMap:Z,thicknessMap:V,gradientMap:ot,opaque:x.transparent===!1&&x.blending===zs&&x.alphaToCoverage===!1,alphaMap:nt,alphaTest:rt,alphaHash:bt,combine:x.combine,mapUv:Rt&&m(x.map.channel),aoMapUv:Ie&&m(x.aoMap.channel),lightMapUv:ye&&m(x.lightMap.channel),bumpMapUv:We&&m(x.bumpMap.channel),normalMapUv:le&&m(x.normalMap.channel),displacementMapUv:Si&&m(x.displacementMap.channel),emissiveMapUv:Ee&&m(x.emissiveMap.channel),metalnessMapUv:ni&&m(x.metalnessMap.channel),roughnessMapUv:si&&m(x.roughnessMap.channel),anisotropyMapUv:It&&m(x.anisotropyMap.channel),clearcoatMapUv:M&&m(x.clearcoatMap.channel),clearcoatNormalMapUv:y&&m(x.clearcoatNormalMap.channel),clearcoatRoughnessMapUv:U&&m(x.clearcoatRoughnessMap.channel),diffuseRoughnessMapUv:tt&&m(x.diffuseRoughnessMap.channel),iridescenceMapUv:J&&m(x.iridescenceMap.channel),iridescenceThicknessMapUv:st&&m(x.iridescenceThicknessMap.channel),sheenColorMapUv:ct&&m(x.sheenColorMap.channel),sheenRoughnessMapUv:X&&m(x.sheenRoughnessMap.channel),specularMapUv:$&&m(x.specularMap.channel),specularColorMapUv:at&&m(x.specularColorMap.channel),specularIntensityMapUv:A&&m(x.specularIntensityMap.channel),transmissionMapUv:Z&&m(x.transmissionMap.channel),thicknessMapUv:V&&m(x.thicknessMap.channel),alphaMapUv:nt&&m(x.alphaMap.channel),vertexTangents:!!P.attributes.tangent&&(le||ri),vertexNormals:!!P.attributes.normal,vertexColors:x.vertexColors,vertexAlphas:x.vertexColors===!0&&!!P.attributes.color&&P.attributes.color.itemSize===4,pointsUvs:D.isPoints===!0&&!!P.attributes.uv&&(Rt||nt),fog:!!q,useFog:x.fog===!0,fogExp2:!!q&&q.isFogExp2,flatShading:x.wireframe===!1&&(x.flatShading===!0||P.attributes.normal===void 0&&le===!1&&(x.isMeshLambertMaterial||x.isMeshPhongMaterial||x.isMeshStandardMaterial||x.isMeshPhysicalMaterial)),sizeAttenuation:x.sizeAttenuation===!0,logarithmicDepthBuffer:d,reversedDepthBuffer:mt,skinning:D.isSkinnedMesh===!0,hasPositionAttribute:P.attributes.position!==void 0,morphTargets:P.morphAttributes.position!==void 0,morphNormals:P.morphAttributes.normal!==void 0,morphColors:P.morphAttributes.color!==void 0,morphTargetsCount:Q,morphTextureStride:St,numSunLights:b.sun.length,numDirLights:b.directional.length,numPointLights:b.point.length,numSpotLights:b.spot.length,numSpotLightMaps:b.spotLightMap.length,numRectAreaLights:b.rectArea.length,numHemiLights:b.hemi.length,numSunLightShadows:b.sunShadowMap.length,numDirLightShadows:b.directionalShadowMap.length,numPointLightShadows:b.pointShadowMap.length,numSpotLightShadows:b.spotShadowMap.length,numSpotLightShadowsWithMaps:b.numSpotLightShadowsWithMaps,numLightProbes:b.numLightProbes,numLightProbeGrids:z.filter(dt=>dt.texture!==null).length,numClippingPlanes:r.numPlanes,numClipIntersection:r.numIntersection,dithering:x.dithering,shadowMapEnabled:i.shadowMap.enabled&&k.length>0,shadowMapType:i.shadowMap.type,toneMapping:it,decodeVideoTexture:Rt&&x.map.isVideoTexture===!0&&Xt.getTransfer(x.map.colorSpace)===Kt,decodeVideoTextureEmissive:Ee&&x.emissiveMap.isVideoTexture===!0&&Xt.getTransfer(x.emissiveMap.colorSpace)===Kt,premultipliedAlpha:x.premultipliedAlpha,doubleSided:x.side===Di,flipSided:x.side===Ge,useDepthPacking:x.depthPacking>=0,depthPacking:x.depthPacking||0,index0AttributeName:x.index0AttributeName,extensionClipCullDistance:kt&&x.extensions.clipCullDistance===!0&&e.has("WEBGL_clip_cull_distance"),extensionMultiDraw:(kt&&x.extensions.multiDraw===!0||ge)&&e.has("WEBGL_multi_draw"),rendererExtensionParallelShaderCompile:e.has("KHR_parallel_shader_compile"),customProgramCacheKey:x.customProgramCacheKey()};return Ft.vertexUv1s=l.has(1),Ft.vertexUv2s=l.has(2),Ft.vertexUv3s=l.has(3),l.clear(),Ft}function _(x){let b=[];if(x.shaderID?b.push(x.shaderID):(b.push(x.customVertexShaderID),b.push(x.customFragmentShaderID)),x.defines!==void 0)for(let k in x.defines)b.push(k),b.push(x.defines[k]);return x.isRawShaderMaterial===!1&&(f(b,x),p(b,x),b.push(i.outputColorSpace)),b.push(x.customProgramCacheKey),b.join()}function f(x,b){x.push(b.precision),x.push(b.outputColorSpace),x.push(b.envMapMode),x.push(b.envMapPMREM),x.push(b.envMapMaxLod),x.push(b.envMapSize),x.push(b.mapUv),x.push(b.alphaMapUv),x.push(b.lightMapUv),x.push(b.aoMapUv),x.push(b.bumpMapUv),x.push(b.normalMapUv),x.push(b.displacementMapUv),x.push(b.emissiveMapUv),x.push(b.metalnessMapUv),x.push(b.roughnessMapUv),x.push(b.anisotropyMapUv),x.push(b.clearcoatMapUv),x.push(b.clearcoatNormalMapUv),x.push(b.clearcoatRoughnessMapUv),x.push(b.diffuseRoughnessMapUv),x.push(b.iridescenceMapUv),x.push(b.iridescenceThicknessMapUv),x.push(b.sheenColorMapUv),x.push(b.sheenRoughnessMapUv),x.push(b.specularMapUv),x.push(b.specularColorMapUv),x.push(b.specularIntensityMapUv),x.push(b.transmissionMapUv),x.push(b.thicknessMapUv),x.push(b.combine),x.push(b.fogExp2),x.push(b.sizeAttenuation),x.push(b.morphTargetsCount),x.push(b.numSunLights),x.push(b.numDirLights),x.push(b.numPointLights),x.push(b.numSpotLights),x.push(b.numSpotLightMaps),x.push(b.numHemiLights),x.push(b.numRectAreaLights),x.push(b.numSunLightShadows),x.push(b.numDirLightShadows),x.push(b.numPointLightShadows),x.push(b.numSpotLightShadows),x.push(b.numSpotLightShadowsWithMaps),x.push(b.numLightProbes),x.push(b.numLightProbeGrids),x.push(b.shadowMapType),x.push(b.toneMapping),x.push(b.numClippingPlanes),x.push(b.numClipIntersection),x.push(b.depthPacking)}function p(x,b){a.disableAll(),b.instancing&&a.enable(0),b.instancingColor&&a.enable(1),b.instancingMorph&&a.enable(2),b.matcap&&a.enable(3),b.envMap&&a.enable(4),b.normalMapObjectSpace&&a.enable(5),b.normalMapTangentSpace&&a.enable(6),b.clearcoat&&a.enable(7),b.iridescence&&a.enable(8),b.alphaTest&&a.enable(9),b.vertexColors&&a.enable(10),b.vertexAlphas&&a.enable(11),b.vertexUv1s&&a.enable(12),b.vertexUv2s&&a.enable(13),b.vertexUv3s&&a.enable(14),b.vertexTangents&&a.enable(15),b.anisotropy&&a.enable(16),b.alphaHash&&a.enable(17),b.batching&&a.enable(18),b.dispersion&&a.enable(19),b.retroreflection&&a.enable(24),b.diffuseRoughness&&a.enable(25),b.batchingColor&&a.enable(20),b.gradientMap&&a.enable(21),b.packedNormalMap&&a.enable(22),b.vertexNormals&&a.enable(23),x.push(a.mask),a.disableAll(),b.fog&&a.enable(0),b.useFog&&a.enable(1),b.flatShading&&a.enable(2),b.logarithmicDepthBuffer&&a.enable(3),b.reversedDepthBuffer&&a.enable(4),b.skinning&&a.enable(5),b.morphTargets&&a.enable(6),b.morphNormals&&a.enable(7),b.morphColors&&a.enable(8),b.premultipliedAlpha&&a.enable(9),b.shadowMapEnabled&&a.enable(10),b.doubleSided&&a.enable(11),b.flipSided&&a.enable(12),b.useDepthPacking&&a.enable(13),b.dithering&&a.enable(14),b.transmission&&a.enable(15),b.sheen&&a.enable(16),b.opaque&&a.enable(17),b.pointsUvs&&a.enable(18),b.decodeVideoTexture&&a.enable(19),b.decodeVideoTextureEmissive&&a.enable(20),b.alphaToCoverage&&a.enable(21),b.numLightProbeGrids>0&&a.enable(22),b.hasPositionAttribute&&a.enable(23),x.push(a.mask)}function S(x){let b=u[x.type],k;if(b){let I=Ui[b];k=fm.clone(I.uniforms)}else k=x.uniforms;return k}function T(x,b){let k=h.get(b);return k!==void 0?++k.usedTimes:(k=new Pb(i,b,x,s),c.push(k),h.set(b,k)),k}function w(x){if(--x.usedTimes===0){let b=c.indexOf(x);c[b]=c[c.length-1],c.pop(),h.delete(x.cacheKey),x.destroy()}}function R(x){o.remove(x)}function E(){o.dispose()}return{getParameters:g,getProgramCacheKey:_,getUniforms:S,acquireProgram:T,releaseProgram:w,releaseShaderCache:R,programs:c,dispose:E}}function Nb(){let i=new WeakMap;function t(a){return i.has(a)}function e(a){let o=i.get(a);return o===void 0&&(o={},i.set(a,o)),o}function n(a){i.delete(a)}function s(a,o,l){i.get(a)[o]=l}function r(){i=new WeakMap}return{has:t,get:e,remove:n,update:s,dispose:r}}function Ob(i,t){return i.groupOrder!==t.groupOrder?i.groupOrder-t.groupOrder:i.renderOrder!==t.renderOrder?i.renderOrder-t.renderOrder:i.material.id!==t.material.id?i.material.id-t.material.id:i.materialVariant!==t.materialVariant?i.materialVariant-t.materialVariant:i.z!==t.z?i.z-t.z:i.id-t.id}function Dm(i,t){return i.groupOrder!==t.groupOrder?i.groupOrder-t.groupOrder:i.renderOrder!==t.renderOrder?i.renderOrder-t.renderOrder:i.z!==t.z?t.z-i.z:i.id-t.id}function Nm(){let i=[],t=0,e=[],n=[],s=[];function r(){t=0,e.length=0,n.length=0,s.length=0}function a(u){let m=0;return u.isInstancedMesh&&(m+=2),u.isSkinnedMesh&&(m+=1),m}function o(u,m,g,_,f,p){let S=i[t];return S===void 0?(S={id:u.id,object:u,geometry:m,material:g,materialVariant:a(u),groupOrder:_,renderOrder:u.renderOrder,z:f,group:p},i[t]=S):(S.id=u.id,S.object=u,S.geometry=m,S.material=g,S.materialVariant=a(u),S.groupOrder=_,S.renderOrder=u.renderOrder,S.z=f,S.group=p),t++,S}function l(u,m,g,_,f,p,S){S.reversedDepth===!0&&(f=-f);let T=o(u,m,g,_,f,p);g.transmission>0?n.push(T):g.transparent===!0?s.push(T):e.push(T)}function c(u,m,g,_,f,p){let S=o(u,m,g,_,f,p);g.transmission>0?n.unshift(S):g.transparent===!0?s.unshift(S):e.unshift(S)}function h(u,m){e.length>1&&e.sort(u||Ob),n.length>1&&n.sort(m||Dm),s.length>1&&s.sort(m||Dm)}function d(){for(let u=t,m=i.length;u<m;u++){let g=i[u];if(g.id===null)break;g.id=null,g.object=null,g.geometry=null,g.material=null,g.group=null}}return{opaque:e,transmissive:n,transparent:s,init:r,push:l,unshift:c,finish:d,sort:h}}function Ub(){let i=new WeakMap;function t(n,s){let r=i.get(n),a;return r===void 0?(a=new Nm,i.set(n,[a])):s>=r.length?(a=new Nm,r.push(a)):a=r[s],a}function e(){i=new WeakMap}return{get:t,dispose:e}}function Fb(){let i={};return{get:function(t){if(i[t.id]!==void 0)return i[t.id];let e;switch(t.type){case"SunLight":case"DirectionalLight":e={direction:new N,color:new Ht};break;case"SpotLight":e={position:new N,direction:new N,color:new Ht,distance:0,coneCos:0,penumbraCos:0,decay:0};break;case"PointLight":e={position:new N,color:new Ht,distance:0,decay:0};break;case"HemisphereLight":e={direction:new N,skyColor:new Ht,groundColor:new Ht};break;case"RectAreaLight":e={color:new Ht,position:new N,halfWidth:new N,halfHeight:new N};break}return i[t.id]=e,e}}}function kb(){let i={};return{get:function(t){if(i[t.id]!==void 0)return i[t.id];let e;switch(t.type){case"SunLight":case"DirectionalLight":e={shadowIntensity:1,shadowBias:0,shadowNormalBias:0,shadowRadius:1,shadowMapSize:new Ot};break;case"SpotLight":e={shadowIntensity:1,shadowBias:0,shadowNormalBias:0,shadowRadius:1,shadowMapSize:new Ot};break;case"PointLight":e={shadowIntensity:1,shadowBias:0,shadowNormalBias:0,shadowRadius:1,shadowMapSize:new Ot,shadowCameraNear:1,shadowCameraFar:1e3};break}return i[t.id]=e,e}}}var Bb=0;function zb(i,t){return(t.castShadow?2:0)-(i.castShadow?2:0)+(t.map?1:0)-(i.map?1:0)}function Hb(i){let t=new Fb,e=kb(),n={version:0,hash:{sunLength:-1,directionalLength:-1,pointLength:-1,spotLength:-1,rectAreaLength:-1,hemiLength:-1,numSunShadows:-1,numDirectionalShadows:-1,numPointShadows:-1,numSpotShadows:-1,numSpotMaps:-1,numLightProbes:-1},ambient:[0,0,0],probe:[],sun:[],sunShadow:[],sunShadowMap:[],sunShadowMatrix:[],sunShadowCascade:[],directional:[],directionalShadow:[],directionalShadowMap:[],directionalShadowMatrix:[],spot:[],spotLightMap:[],spotShadow:[],spotShadowMap:[],spotLightMatrix:[],rectArea:[],rectAreaLTC1:null,rectAreaLTC2:null,point:[],pointShadow:[],pointShadowMap:[],pointShadowMatrix:[],hemi:[],numSpotLightShadowsWithMaps:0,numLightProbes:0};for(let c=0;c<9;c++)n.probe.push(new N);let s=new N,r=new se,a=new se;function o(c){let h=0,d=0,u=0;for(let z=0;z<9;z++)n.probe[z].set(0,0,0);let m=0,g=0,_=0,f=0,p=0,S=0,T=0,w=0,R=0,E=0,x=0,b=0,k=0,I=0;c.sort(zb);for(let z=0,q=c.length;z<q;z++){let P=c[z],W=P.color,K=P.intensity,H=P.distance,et=null;if(P.shadow&&P.shadow.map&&(P.shadow.map.texture.format===wn?et=P.shadow.map.texture:et=P.shadow.map.depthTexture||P.shadow.map.texture),P.isAmbientLight)h+=W.r*K,d+=W.g*K,u+=W.b*K;else if(P.isLightProbe){for(let G=0;G<9;G++)n.probe[G].addScaledVector(P.sh.coefficients[G],K);I++}else if(P.isSunLight){let G=t.get(P);if(G.color.copy(P.color).multiplyScalar(P.intensity),P.castShadow){let j=P.shadow,Q=e.get(P);Q.shadowIntensity=j.intensity,Q.shadowBias=j.bias,Q.shadowNormalBias=j.normalBias,Q.shadowRadius=j.radius,Q.shadowMapSize.copy(j.mapSize).multiply(j.getFrameExtents()),n.sunShadow[g]=Q,n.sunShadowMap[g]=et;let St=j.getViewportCount();for(let Lt=0;Lt<St;Lt++)n.sunShadowMatrix[_+Lt]=j.getMatrix(Lt),n.sunShadowCascade[_+Lt]=j._cascadeData[Lt];_+=St,g++}n.sun[m]=G,m++}else if(P.isDirectionalLight){let G=t.get(P);if(G.color.copy(P.color).multiplyScalar(P.intensity),P.castShadow){let j=P.shadow,Q=e.get(P);Q.shadowIntensity=j.intensity,Q.shadowBias=j.bias,Q.shadowNormalBias=j.normalBias,Q.shadowRadius=j.radius,Q.shadowMapSize=j.mapSize,n.directionalShadow[f]=Q,n.directionalShadowMap[f]=et,n.directionalShadowMatrix[f]=P.shadow.matrix,R++}n.directional[f]=G,f++}else if(P.isSpotLight){let G=t.get(P);G.position.setFromMatrixPosition(P.matrixWorld),G.color.copy(W).multiplyScalar(K),G.distance=H,G.coneCos=Math.cos(P.angle),G.penumbraCos=Math.cos(P.angle*(1-P.penumbra)),G.decay=P.decay,n.spot[S]=G;let j=P.shadow;if(P.map&&(n.spotLightMap[b]=P.map,b++,j.updateMatrices(P),P.castShadow&&k++),n.spotLightMatrix[S]=j.matrix,P.castShadow){let Q=e.get(P);Q.shadowIntensity=j.intensity,Q.shadowBias=j.bias,Q.shadowNormalBias=j.normalBias,Q.shadowRadius=j.radius,Q.shadowMapSize=j.mapSize,n.spotShadow[S]=Q,n.spotShadowMap[S]=et,x++}S++}else if(P.isRectAreaLight){let G=t.get(P);G.color.copy(W).multiplyScalar(K),G.halfWidth.set(P.width*.5,0,0),G.halfHeight.set(0,P.height*.5,0),n.rectArea[T]=G,T++}else if(P.isPointLight){let G=t.get(P);if(G.color.copy(P.color).multiplyScalar(P.intensity),G.distance=P.distance,G.decay=P.decay,P.castShadow){let j=P.shadow,Q=e.get(P);Q.shadowIntensity=j.intensity,Q.shadowBias=j.bias,Q.shadowNormalBias=j.normalBias,Q.shadowRadius=j.radius,Q.shadowMapSize=j.mapSize,Q.shadowCameraNear=j.camera.near,Q.shadowCameraFar=j.camera.far,n.pointShadow[p]=Q,n.pointShadowMap[p]=et,n.pointShadowMatrix[p]=P.shadow.matrix,E++}n.point[p]=G,p++}else if(P.isHemisphereLight){let G=t.get(P);G.skyColor.copy(P.color).multiplyScalar(K),G.groundColor.copy(P.groundColor).multiplyScalar(K),n.hemi[w]=G,w++}}T>0&&(i.has("OES_texture_float_linear")===!0?(n.rectAreaLTC1=ft.LTC_FLOAT_1,n.rectAreaLTC2=ft.LTC_FLOAT_2):(n.rectAreaLTC1=ft.LTC_HALF_1,n.rectAreaLTC2=ft.LTC_HALF_2)),n.ambient[0]=h,n.ambient[1]=d,n.ambient[2]=u;let D=n.hash;(D.sunLength!==m||D.directionalLength!==f||D.pointLength!==p||D.spotLength!==S||D.rectAreaLength!==T||D.hemiLength!==w||D.numSunShadows!==g||D.numDirectionalShadows!==R||D.numPointShadows!==E||D.numSpotShadows!==x||D.numSpotMaps!==b||D.numLightProbes!==I)&&(n.sun.length=m,n.directional.length=f,n.spot.length=S,n.rectArea.length=T,n.point.length=p,n.hemi.length=w,n.sunShadow.length=g,n.sunShadowMap.length=g,n.sunShadowMatrix.length=_,n.sunShadowCascade.length=_,n.directionalShadow.length=R,n.directionalShadowMap.length=R,n.directionalShadowMatrix.length=R,n.pointShadow.length=E,n.pointShadowMap.length=E,n.pointShadowMatrix.length=E,n.spotShadow.length=x,n.spotShadowMap.length=x,n.spotLightMatrix.length=x+b-k,n.spotLightMap.length=b,n.numSpotLightShadowsWithMaps=k,n.numLightProbes=I,D.sunLength=m,D.directionalLength=f,D.pointLength=p,D.spotLength=S,D.rectAreaLength=T,D.hemiLength=w,D.numSunShadows=g,D.numDirectionalShadows=R,D.numPointShadows=E,D.numSpotShadows=x,D.numSpotMaps=b,D.numLightProbes=I,n.version=Bb++)}function l(c,h){let d=0,u=0,m=0,g=0,_=0,f=0,p=h.matrixWorldInverse;for(let S=0,T=c.length;S<T;S++){let w=c[S];if(w.isSunLight){let R=n.sun[d];R.direction.setFromMatrixPosition(w.matrixWorld),R.direction.transformDirection(p),d++}else if(w.isDirectionalLight){let R=n.directional[u];R.direction.setFromMatrixPosition(w.matrixWorld),s.setFromMatrixPosition(w.target.matrixWorld),R.direction.sub(s),R.direction.transformDirection(p),u++}else if(w.isSpotLight){let R=n.spot[g];R.position.setFromMatrixPosition(w.matrixWorld),R.position.applyMatrix4(p),R.direction.setFromMatrixPosition(w.matrixWorld),s.setFromMatrixPosition(w.target.matrixWorld),R.direction.sub(s),R.direction.transformDirection(p),g++}else if(w.isRectAreaLight){let R=n.rectArea[_];R.position.setFromMatrixPosition(w.matrixWorld),R.position.applyMatrix4(p),a.identity(),r.copy(w.matrixWorld),r.premultiply(p),a.extractRotation(r),R.halfWidth.set(w.width*.5,0,0),R.halfHeight.set(0,w.height*.5,0),R.halfWidth.applyMatrix4(a),R.halfHeight.applyMatrix4(a),_++}else if(w.isPointLight){let R=n.point[m];R.position.setFromMatrixPosition(w.matrixWorld),R.position.applyMatrix4(p),m++}else if(w.isHemisphereLight){let R=n.hemi[f];R.direction.setFromMatrixPosition(w.matrixWorld),R.direction.transformDirection(p),f++}}}return{setup:o,setupView:l,state:n}}function Om(i){let t=new Hb(i),e=[],n=[],s=[];function r(d){h.camera=d,e.length=0,n.length=0,s.length=0}function a(d){d.isLightProbeGrid?s.push(d):e.push(d)}function o(d){n.push(d)}function l(){t.setup(e),s.sort((d,u)=>d.priority-u.priority||d.id-u.id)}function c(d){t.setupView(e,d)}let h={lightsArray:e,shadowsArray:n,lightProbeGridArray:s,camera:null,lights:t,transmissionRenderTarget:{},textureUnits:0};return{init:r,state:h,setupLights:l,setupLightsView:c,pushLight:a,pushShadow:o}}function Vb(i){let t=new WeakMap;function e(s,r=0){let a=t.get(s),o;return a===void 0?(o=new Om(i),t.set(s,[o])):r>=a.length?(o=new Om(i),a.push(o)):o=a[r],o}function n(){t=new WeakMap}return{get:e,dispose:n}}var Gb=`void main() {
	gl_Position = vec4( position, 1.0 );
}`,Wb=`uniform sampler2D shadow_pass;
uniform vec2 resolution;
uniform float radius;
void main() {
	const float samples = float( VSM_SAMPLES );
	float mean = 0.0;
	float squared_mean = 0.0;
	float uvStride = samples <= 1.0 ? 0.0 : 2.0 / ( samples - 1.0 );
	float uvStart = samples <= 1.0 ? 0.0 : - 1.0;
	for ( float i = 0.0; i < samples; i ++ ) {
		float uvOffset = uvStart + i * uvStride;
		#ifdef HORIZONTAL_PASS
			vec2 distribution = texture2D( shadow_pass, ( gl_FragCoord.xy + vec2( uvOffset, 0.0 ) * radius ) / resolution ).rg;
			mean += distribution.x;
			squared_mean += distribution.y * distribution.y + distribution.x * distribution.x;
		#else
			float depth = texture2D( shadow_pass, ( gl_FragCoord.xy + vec2( 0.0, uvOffset ) * radius ) / resolution ).r;
			mean += depth;
			squared_mean += depth * depth;
		#endif
	}
	mean = mean / samples;
	squared_mean = squared_mean / samples;
	float std_dev = sqrt( max( 0.0, squared_mean - mean * mean ) );
	gl_FragColor = vec4( mean, std_dev, 0.0, 1.0 );
}`,Xb=[new N(1,0,0),new N(-1,0,0),new N(0,1,0),new N(0,-1,0),new N(0,0,1),new N(0,0,-1)],qb=[new N(0,-1,0),new N(0,-1,0),new N(0,0,1),new N(0,0,-1),new N(0,-1,0),new N(0,-1,0)],Um=new se,Zr=new N,uu=new N;function $b(i,t,e){let n=new Zn,s=new Ot,r=new Ot,a=new ue,o=new Oo,l=new Uo,c={},h=e.maxTextureSize,d={[bn]:Ge,[Ge]:bn,[Di]:Di},u=new Li({defines:{VSM_SAMPLES:8},uniforms:{shadow_pass:{value:null},resolution:{value:new Ot},radius:{value:4}},vertexShader:Gb,fragmentShader:Wb}),m=u.clone();m.defines.HORIZONTAL_PASS=1;let g=new Fe;g.setAttribute("position",new Pi(new Float32Array([-1,-1,.5,3,-1,.5,-1,3,.5]),3));let _=new Ii(g,u),f=this;this.enabled=!1,this.autoUpdate=!0,this.needsUpdate=!1,this.type=Hr;let p=this.type;this.render=function(E,x,b){if(f.enabled===!1||f.autoUpdate===!1&&f.needsUpdate===!1||E.length===0)return;this.type===Cp&&(Et("WebGLShadowMap: PCFSoftShadowMap has been removed. Using PCFShadowMap instead."),this.type=Hr);let k=i.getRenderTarget(),I=i.getActiveCubeFace(),D=i.getActiveMipmapLevel(),z=i.state;z.setBlending(Jn),z.buffers.depth.getReversed()===!0?z.buffers.color.setClear(0,0,0,0):z.buffers.color.setClear(1,1,1,1),z.buffers.depth.setTest(!0),z.setScissorTest(!1);let q=p!==this.type;q&&x.traverse(function(P){P.material&&(Array.isArray(P.material)?P.material.forEach(W=>W.needsUpdate=!0):P.material.needsUpdate=!0)});for(let P=0,W=E.length;P<W;P++){let K=E[P],H=K.shadow;if(H===void 0){Et("WebGLShadowMap:",K,"has no shadow.");continue}if(H.autoUpdate===!1&&H.needsUpdate===!1)continue;s.copy(H.mapSize);let et=H.getFrameExtents();s.multiply(et),r.copy(H.mapSize),(s.x>h||s.y>h)&&(s.x>h&&(r.x=Math.floor(h/et.x),s.x=r.x*et.x,H.mapSize.x=r.x),s.y>h&&(r.y=Math.floor(h/et.y),s.y=r.y*et.y,H.mapSize.y=r.y));let G=i.state.buffers.depth.getReversed();if(H.camera._reversedDepth=G,H.map===null||q===!0){if(H.map!==null&&(H.map.depthTexture!==null&&(H.map.depthTexture.dispose(),H.map.depthTexture=null),H.map.dispose()),this.type===Bs){if(K.isPointLight){Et("WebGLShadowMap: VSM shadow maps are not supported for PointLights. Use PCF or BasicShadowMap instead.");continue}H.map=new ti(s.x,s.y,{format:wn,type:yi,minFilter:Ve,magFilter:Ve,generateMipmaps:!1}),H.map.texture.name=K.name+".shadowMap",H.map.depthTexture=new Ji(s.x,s.y,xi),H.map.depthTexture.name=K.name+".shadowMapDepth",H.map.depthTexture.format=Zi,H.map.depthTexture.compareFunction=null,H.map.depthTexture.minFilter=Pe,H.map.depthTexture.magFilter=Pe}else K.isPointLight?(H.map=new Jr(s.x),H.map.depthTexture=new Nr(s.x,_i)):(H.map=new ti(s.x,s.y),H.map.depthTexture=new Ji(s.x,s.y,_i)),H.map.depthTexture.name=K.name+".shadowMap",H.map.depthTexture.format=Zi,this.type===Hr?(H.map.depthTexture.compareFunction=G?jh:Jh,H.map.depthTexture.minFilter=Ve,H.map.depthTexture.magFilter=Ve):(H.map.depthTexture.compareFunction=null,H.map.depthTexture.minFilter=Pe,H.map.depthTexture.magFilter=Pe);H.camera.updateProjectionMatrix()}H.map.isWebGLCubeRenderTarget!==!0&&(H.map.width!==s.x||H.map.height!==s.y)&&H.map.setSize(s.x,s.y);let j=H.map.isWebGLCubeRenderTarget?6:H.getViewportCount();K.isPointLight!==!0&&H.updateMatrices(K,b);let Q=(H.camera.layers.mask&4294967294)!==0?H.camera.layers:b.layers;for(let St=0;St<j;St++){let Lt=H.getCamera(St);if(K.isPointLight){let Y=H.camera,pt=H.matrix,xt=K.distance||Y.far;xt!==Y.far&&(Y.far=xt,Y.updateProjectionMatrix()),Zr.setFromMatrixPosition(K.matrixWorld),Y.position.copy(Zr),uu.copy(Y.position),uu.add(Xb[St]),Y.up.copy(qb[St]),Y.lookAt(uu),Y.updateMatrixWorld(),pt.makeTranslation(-Zr.x,-Zr.y,-Zr.z),Um.multiplyMatrices(Y.projectionMatrix,Y.matrixWorldInverse),H._frustum.setFromProjectionMatrix(Um,Y.coordinateSystem,Y.reversedDepth)}if(H.map.isWebGLCubeRenderTarget)i.setRenderTarget(H.map,St),i.clear();else{St===0&&(i.setRenderTarget(H.map),i.clear());let Y=H.getViewport(St);a.set(r.x*Y.x,r.y*Y.y,r.x*Y.z,r.y*Y.w),z.viewport(a)}n=H.getFrustum(St),w(x,b,Lt,K,Q,this.type)}H.isPointLightShadow!==!0&&this.type===Bs&&S(H,b),H.needsUpdate=!1}p=this.type,f.needsUpdate=!1,i.setRenderTarget(k,I,D)};function S(E,x){let b=t.update(_);u.defines.VSM_SAMPLES!==E.blurSamples&&(u.defines.VSM_SAMPLES=E.blurSamples,m.defines.VSM_SAMPLES=E.blurSamples,u.needsUpdate=!0,m.needsUpdate=!0),E.mapPass===null?E.mapPass=new ti(s.x,s.y,{format:wn,type:yi}):(E.mapPass.width!==E.map.width||E.mapPass.height!==E.map.height)&&E.mapPass.setSize(E.map.width,E.map.height),u.uniforms.shadow_pass.value=E.map.depthTexture,u.uniforms.resolution.value.set(E.map.width,E.map.height),u.uniforms.radius.value=E.radius,i.setRenderTarget(E.mapPass),i.clear(),i.renderBufferDirect(x,null,b,u,_,null),m.uniforms.shadow_pass.value=E.mapPass.texture,m.uniforms.resolution.value.set(E.map.width,E.map.height),m.uniforms.radius.value=E.radius,i.setRenderTarget(E.map),i.clear(),i.renderBufferDirect(x,null,b,m,_,null)}function T(E,x,b,k){let I=null,D=b.isPointLight===!0?E.customDistanceMaterial:E.customDepthMaterial;if(D!==void 0)I=D;else if(I=b.isPointLight===!0?l:o,i.localClippingEnabled&&x.clipShadows===!0&&Array.isArray(x.clippingPlanes)&&x.clippingPlanes.length!==0||x.displacementMap&&x.displacementScale!==0||x.alphaMap&&x.alphaTest>0||x.map&&x.alphaTest>0||x.alphaToCoverage===!0){let z=I.uuid,q=x.uuid,P=c[z];P===void 0&&(P={},c[z]=P);let W=P[q];W===void 0&&(W=I.clone(),P[q]=W,x.addEventListener("dispose",R)),I=W}if(I.visible=x.visible,I.wireframe=x.wireframe,k===Bs?I.side=x.shadowSide!==null?x.shadowSide:x.side:I.side=x.shadowSide!==null?x.shadowSide:d[x.side],I.alphaMap=x.alphaMap,I.alphaTest=x.alphaToCoverage===!0?.5:x.alphaTest,I.map=x.map,I.clipShadows=x.clipShadows,I.clippingPlanes=x.clippingPlanes,I.clipIntersection=x.clipIntersection,I.displacementMap=x.displacementMap,I.displacementScale=x.displacementScale,I.displacementBias=x.displacementBias,I.wireframeLinewidth=x.wireframeLinewidth,I.linewidth=x.linewidth,b.isPointLight===!0&&I.isMeshDistanceMaterial===!0){let z=i.properties.get(I);z.light=b}return I}function w(E,x,b,k,I,D){if(E.visible===!1)return;if(E.layers.test(I)&&(E.isMesh||E.isLine||E.isPoints)&&(E.castShadow||E.receiveShadow&&D===Bs)&&(!E.frustumCulled||E.intersectsFrustum(n))){E.modelViewMatrix.multiplyMatrices(b.matrixWorldInverse,E.matrixWorld);let P=t.update(E),W=E.material;if(Array.isArray(W)){let K=P.groups;for(let H=0,et=K.length;H<et;H++){let G=K[H],j=W[G.materialIndex];if(j&&j.visible){let Q=T(E,j,k,D);E.onBeforeShadow(i,E,x,b,P,Q,G),i.renderBufferDirect(b,null,P,Q,E,G),E.onAfterShadow(i,E,x,b,P,Q,G)}}}else if(W.visible){let K=T(E,W,k,D);E.onBeforeShadow(i,E,x,b,P,K,null),i.renderBufferDirect(b,null,P,K,E,null),E.onAfterShadow(i,E,x,b,P,K,null)}}let q=E.children;for(let P=0,W=q.length;P<W;P++)w(q[P],x,b,k,I,D)}function R(E){E.target.removeEventListener("dispose",R);for(let b in c){let k=c[b],I=E.target.uuid;I in k&&(k[I].dispose(),delete k[I])}}}function Yb(i,t){function e(){let A=!1,Z=new ue,V=null,ot=new ue(0,0,0,0);return{setMask:function(nt){V!==nt&&!A&&(i.colorMask(nt,nt,nt,nt),V=nt)},setLocked:function(nt){A=nt},setClear:function(nt,rt,bt,kt,it){it===!0&&(nt*=kt,rt*=kt,bt*=kt),Z.set(nt,rt,bt,kt),ot.equals(Z)===!1&&(i.clearColor(nt,rt,bt,kt),ot.copy(Z))},reset:function(){A=!1,V=null,ot.set(-1,0,0,0)}}}function n(){let A=!1,Z=!1,V=null,ot=null,nt=null;return{setReversed:function(rt){if(Z!==rt){let bt=t.get("EXT_clip_control");rt?bt.clipControlEXT(bt.LOWER_LEFT_EXT,bt.ZERO_TO_ONE_EXT):bt.clipControlEXT(bt.LOWER_LEFT_EXT,bt.NEGATIVE_ONE_TO_ONE_EXT),Z=rt;let kt=nt;nt=null,this.setClear(kt)}},getReversed:function(){return Z},setTest:function(rt){rt?mt(i.DEPTH_TEST):Ut(i.DEPTH_TEST)},setMask:function(rt){V!==rt&&!A&&(i.depthMask(rt),V=rt)},setFunc:function(rt){if(Z&&(rt=cm[rt]),ot!==rt){switch(rt){case go:i.depthFunc(i.NEVER);break;case _o:i.depthFunc(i.ALWAYS);break;case xo:i.depthFunc(i.LESS);break;case Rs:i.depthFunc(i.LEQUAL);break;case yo:i.depthFunc(i.EQUAL);break;case vo:i.depthFunc(i.GEQUAL);break;case So:i.depthFunc(i.GREATER);break;case Mo:i.depthFunc(i.NOTEQUAL);break;default:i.depthFunc(i.LEQUAL)}ot=rt}},setLocked:function(rt){A=rt},setClear:function(rt){nt!==rt&&(nt=rt,Z&&(rt=1-rt),i.clearDepth(rt))},reset:function(){A=!1,V=null,ot=null,nt=null,Z=!1}}}function s(){let A=!1,Z=null,V=null,ot=null,nt=null,rt=null,bt=null,kt=null,it=null;return{setTest:function(wt){A||(wt?mt(i.STENCIL_TEST):Ut(i.STENCIL_TEST))},setMask:function(wt){Z!==wt&&!A&&(i.stencilMask(wt),Z=wt)},setFunc:function(wt,Ft,dt){(V!==wt||ot!==Ft||nt!==dt)&&(i.stencilFunc(wt,Ft,dt),V=wt,ot=Ft,nt=dt)},setOp:function(wt,Ft,dt){(rt!==wt||bt!==Ft||kt!==dt)&&(i.stencilOp(wt,Ft,dt),rt=wt,bt=Ft,kt=dt)},setLocked:function(wt){A=wt},setClear:function(wt){it!==wt&&(i.clearStencil(wt),it=wt)},reset:function(){A=!1,Z=null,V=null,ot=null,nt=null,rt=null,bt=null,kt=null,it=null}}}let r=new e,a=new n,o=new s,l={},c=new WeakMap,h={},d={},u={},m=new WeakMap,g=[],_=null,f=!1,p=null,S=null,T=null,w=null,R=null,E=null,x=null,b=new Ht(0,0,0),k=0,I=!1,D=null,z=null,q=null,P=null,W=null,K=i.getParameter(i.MAX_COMBINED_TEXTURE_IMAGE_UNITS),H=!1,et=0,G=i.getParameter(i.VERSION);G.indexOf("WebGL")!==-1?(et=parseFloat(/^WebGL (\d)/.exec(G)[1]),H=et>=1):G.indexOf("OpenGL ES")!==-1&&(et=parseFloat(/^OpenGL ES (\d)/.exec(G)[1]),H=et>=2);let j=null,Q={},St=i.getParameter(i.SCISSOR_BOX),Lt=i.getParameter(i.VIEWPORT),Y=new ue().fromArray(St),pt=new ue().fromArray(Lt);function xt(A,Z,V,ot){let nt=new Uint8Array(4),rt=i.createTexture();i.bindTexture(A,rt),i.texParameteri(A,i.TEXTURE_MIN_FILTER,i.NEAREST),i.texParameteri(A,i.TEXTURE_MAG_FILTER,i.NEAREST);for(let bt=0;bt<V;bt++)A===i.TEXTURE_3D||A===i.TEXTURE_2D_ARRAY?i.texImage3D(Z,0,i.RGBA,1,1,ot,0,i.RGBA,i.UNSIGNED_BYTE,nt):i.texImage2D(Z+bt,0,i.RGBA,1,1,0,i.RGBA,i.UNSIGNED_BYTE,nt);return rt}let Tt={};Tt[i.TEXTURE_2D]=xt(i.TEXTURE_2D,i.TEXTURE_2D,1),Tt[i.TEXTURE_CUBE_MAP]=xt(i.TEXTURE_CUBE_MAP,i.TEXTURE_CUBE_MAP_POSITIVE_X,6),Tt[i.TEXTURE_2D_ARRAY]=xt(i.TEXTURE_2D_ARRAY,i.TEXTURE_2D_ARRAY,1,1),Tt[i.TEXTURE_3D]=xt(i.TEXTURE_3D,i.TEXTURE_3D,1,1),r.setClear(0,0,0,1),a.setClear(1),o.setClear(0),mt(i.DEPTH_TEST),a.setFunc(Rs),We(!1),le(Rh),mt(i.CULL_FACE),Ie(Jn);function mt(A){h[A]!==!0&&(i.enable(A),h[A]=!0)}function Ut(A){h[A]!==!1&&(i.disable(A),h[A]=!1)}function ge(A,Z){return u[A]!==Z?(i.bindFramebuffer(A,Z),u[A]=Z,A===i.DRAW_FRAMEBUFFER&&(u[i.FRAMEBUFFER]=Z),A===i.FRAMEBUFFER&&(u[i.DRAW_FRAMEBUFFER]=Z),!0):!1}function Rt(A,Z){let V=g,ot=!1;if(A){V=m.get(Z),V===void 0&&(V=[],m.set(Z,V));let nt=A.textures;if(V.length!==nt.length||V[0]!==i.COLOR_ATTACHMENT0){for(let rt=0,bt=nt.length;rt<bt;rt++)V[rt]=i.COLOR_ATTACHMENT0+rt;V.length=nt.length,ot=!0}}else V[0]!==i.BACK&&(V[0]=i.BACK,ot=!0);ot&&i.drawBuffers(V)}function Jt(A){return _!==A?(i.useProgram(A),_=A,!0):!1}let ee={[jn]:i.FUNC_ADD,[Ip]:i.FUNC_SUBTRACT,[Lp]:i.FUNC_REVERSE_SUBTRACT};ee[Dp]=i.MIN,ee[Np]=i.MAX;let Vt={[Op]:i.ZERO,[Up]:i.ONE,[Fp]:i.SRC_COLOR,[Lh]:i.SRC_ALPHA,[Gp]:i.SRC_ALPHA_SATURATE,[Hp]:i.DST_COLOR,[Bp]:i.DST_ALPHA,[kp]:i.ONE_MINUS_SRC_COLOR,[Dh]:i.ONE_MINUS_SRC_ALPHA,[Vp]:i.ONE_MINUS_DST_COLOR,[zp]:i.ONE_MINUS_DST_ALPHA,[Wp]:i.CONSTANT_COLOR,[Xp]:i.ONE_MINUS_CONSTANT_COLOR,[qp]:i.CONSTANT_ALPHA,[$p]:i.ONE_MINUS_CONSTANT_ALPHA};function Ie(A,Z,V,ot,nt,rt,bt,kt,it,wt){if(A===Jn){f===!0&&(Ut(i.BLEND),f=!1);return}if(f===!1&&(mt(i.BLEND),f=!0),A!==Pp){if(A!==p||wt!==I){if((S!==jn||R!==jn)&&(i.blendEquation(i.FUNC_ADD),S=jn,R=jn),wt)switch(A){case zs:i.blendFuncSeparate(i.ONE,i.ONE_MINUS_SRC_ALPHA,i.ONE,i.ONE_MINUS_SRC_ALPHA);break;case Ch:i.blendFunc(i.ONE,i.ONE);break;case Ph:i.blendFuncSeparate(i.ZERO,i.ONE_MINUS_SRC_COLOR,i.ZERO,i.ONE);break;case Ih:i.blendFuncSeparate(i.DST_COLOR,i.ONE_MINUS_SRC_ALPHA,i.ZERO,i.ONE);break;default:Ct("WebGLState: Invalid blending: ",A);break}else switch(A){case zs:i.blendFuncSeparate(i.SRC_ALPHA,i.ONE_MINUS_SRC_ALPHA,i.ONE,i.ONE_MINUS_SRC_ALPHA);break;case Ch:i.blendFuncSeparate(i.SRC_ALPHA,i.ONE,i.ONE,i.ONE);break;case Ph:Ct("WebGLState: SubtractiveBlending requires material.premultipliedAlpha = true");break;case Ih:Ct("WebGLState: MultiplyBlending requires material.premultipliedAlpha = true");break;default:Ct("WebGLState: Invalid blending: ",A);break}T=null,w=null,E=null,x=null,b.set(0,0,0),k=0,p=A,I=wt}return}nt=nt||Z,rt=rt||V,bt=bt||ot,(Z!==S||nt!==R)&&(i.blendEquationSeparate(ee[Z],ee[nt]),S=Z,R=nt),(V!==T||ot!==w||rt!==E||bt!==x)&&(i.blendFuncSeparate(Vt[V],Vt[ot],Vt[rt],Vt[bt]),T=V,w=ot,E=rt,x=bt),(kt.equals(b)===!1||it!==k)&&(i.blendColor(kt.r,kt.g,kt.b,it),b.copy(kt),k=it),p=A,I=!1}function ye(A,Z){A.side===Di?Ut(i.CULL_FACE):mt(i.CULL_FACE);let V=A.side===Ge;Z&&(V=!V),We(V),A.blending===zs&&A.transparent===!1?Ie(Jn):Ie(A.blending,A.blendEquation,A.blendSrc,A.blendDst,A.blendEquationAlpha,A.blendSrcAlpha,A.blendDstAlpha,A.blendColor,A.blendAlpha,A.premultipliedAlpha),a.setFunc(A.depthFunc),a.setTest(A.depthTest),a.setMask(A.depthWrite),r.setMask(A.colorWrite);let ot=A.stencilWrite;o.setTest(ot),ot&&(o.setMask(A.stencilWriteMask),o.setFunc(A.stencilFunc,A.stencilRef,A.stencilFuncMask),o.setOp(A.stencilFail,A.stencilZFail,A.stencilZPass)),Ee(A.polygonOffset,A.polygonOffsetFactor,A.polygonOffsetUnits),A.alphaToCoverage===!0?mt(i.SAMPLE_ALPHA_TO_COVERAGE):Ut(i.SAMPLE_ALPHA_TO_COVERAGE)}function We(A){D!==A&&(A?i.frontFace(i.CW):i.frontFace(i.CCW),D=A)}function le(A){A!==Ap?(mt(i.CULL_FACE),A!==z&&(A===Rh?i.cullFace(i.BACK):A===Rp?i.cullFace(i.FRONT):i.cullFace(i.FRONT_AND_BACK))):Ut(i.CULL_FACE),z=A}function Si(A){A!==q&&(H&&i.lineWidth(A),q=A)}function Ee(A,Z,V){A?(mt(i.POLYGON_OFFSET_FILL),(P!==Z||W!==V)&&(P=Z,W=V,a.getReversed()&&(Z=-Z,V=-V),i.polygonOffset(Z,V))):Ut(i.POLYGON_OFFSET_FILL)}function ni(A){A?mt(i.SCISSOR_TEST):Ut(i.SCISSOR_TEST)}function si(A){A===void 0&&(A=i.TEXTURE0+K-1),j!==A&&(i.activeTexture(A),j=A)}function ri(A,Z,V){V===void 0&&(j===null?V=i.TEXTURE0+K-1:V=j);let ot=Q[V];ot===void 0&&(ot={type:void 0,texture:void 0},Q[V]=ot),(ot.type!==A||ot.texture!==Z)&&(j!==V&&(i.activeTexture(V),j=V),i.bindTexture(A,Z||Tt[A]),ot.type=A,ot.texture=Z)}function L(){let A=Q[j];A!==void 0&&A.type!==void 0&&(i.bindTexture(A.type,null),A.type=void 0,A.texture=void 0)}function ai(){try{i.compressedTexImage2D(...arguments)}catch(A){Ct("WebGLState:",A)}}function ae(){try{i.compressedTexImage3D(...arguments)}catch(A){Ct("WebGLState:",A)}}function oe(){try{i.texSubImage2D(...arguments)}catch(A){Ct("WebGLState:",A)}}function ut(){try{i.texSubImage3D(...arguments)}catch(A){Ct("WebGLState:",A)}}function ve(){try{i.compressedTexSubImage2D(...arguments)}catch(A){Ct("WebGLState:",A)}}function At(){try{i.compressedTexSubImage3D(...arguments)}catch(A){Ct("WebGLState:",A)}}function It(){try{i.texStorage2D(...arguments)}catch(A){Ct("WebGLState:",A)}}function M(){try{i.texStorage3D(...arguments)}catch(A){Ct("WebGLState:",A)}}function y(){try{i.texImage2D(...arguments)}catch(A){Ct("WebGLState:",A)}}function U(){try{i.texImage3D(...arguments)}catch(A){Ct("WebGLState:",A)}}function tt(A){return d[A]!==void 0?d[A]:i.getParameter(A)}function J(A,Z){d[A]!==Z&&(i.pixelStorei(A,Z),d[A]=Z)}function st(A){Y.equals(A)===!1&&(i.scissor(A.x,A.y,A.z,A.w),Y.copy(A))}function ct(A){pt.equals(A)===!1&&(i.viewport(A.x,A.y,A.z,A.w),pt.copy(A))}function X(A,Z){let V=c.get(Z);V===void 0&&(V=new WeakMap,c.set(Z,V));let ot=V.get(A);ot===void 0&&(ot=i.getUniformBlockIndex(Z,A.name),i.uniformBlockBinding(Z,ot,ot),V.set(A,ot))}function $(A,Z,V){let nt=c.get(Z).get(A);l[nt]!==V&&(i.bindBufferBase(i.UNIFORM_BUFFER,nt,V),l[nt]=V)}function at(){i.disable(i.BLEND),i.disable(i.CULL_FACE),i.disable(i.DEPTH_TEST),i.disable(i.POLYGON_OFFSET_FILL),i.disable(i.SCISSOR_TEST),i.disable(i.STENCIL_TEST),i.disable(i.SAMPLE_ALPHA_TO_COVERAGE),i.blendEquation(i.FUNC_ADD),i.blendFunc(i.ONE,i.ZERO),i.blendFuncSeparate(i.ONE,i.ZERO,i.ONE,i.ZERO),i.blendColor(0,0,0,0),i.colorMask(!0,!0,!0,!0),i.clearColor(0,0,0,0),i.depthMask(!0),i.depthFunc(i.LESS),a.setReversed(!1),i.clearDepth(1),i.stencilMask(4294967295),i.stencilFunc(i.ALWAYS,0,4294967295),i.stencilOp(i.KEEP,i.KEEP,i.KEEP),i.clearStencil(0),i.cullFace(i.BACK),i.frontFace(i.CCW),i.polygonOffset(0,0),i.activeTexture(i.TEXTURE0),i.bindFramebuffer(i.FRAMEBUFFER,null),i.bindFramebuffer(i.DRAW_FRAMEBUFFER,null),i.bindFramebuffer(i.READ_FRAMEBUFFER,null),i.useProgram(null),i.lineWidth(1),i.scissor(0,0,i.canvas.width,i.canvas.height),i.viewport(0,0,i.canvas.width,i.canvas.height),i.pixelStorei(i.PACK_ALIGNMENT,4),i.pixelStorei(i.UNPACK_ALIGNMENT,4),i.pixelStorei(i.UNPACK_FLIP_Y_WEBGL,!1),i.pixelStorei(i.UNPACK_PREMULTIPLY_ALPHA_WEBGL,!1),i.pixelStorei(i.UNPACK_COLORSPACE_CONVERSION_WEBGL,i.BROWSER_DEFAULT_WEBGL),i.pixelStorei(i.PACK_ROW_LENGTH,0),i.pixelStorei(i.PACK_SKIP_PIXELS,0),i.pixelStorei(i.PACK_SKIP_ROWS,0),i.pixelStorei(i.UNPACK_ROW_LENGTH,0),i.pixelStorei(i.UNPACK_IMAGE_HEIGHT,0),i.pixelStorei(i.UNPACK_SKIP_PIXELS,0),i.pixelStorei(i.UNPACK_SKIP_ROWS,0),i.pixelStorei(i.UNPACK_SKIP_IMAGES,0),h={},d={},j=null,Q={},u={},l={},m=new WeakMap,g=[],_=null,f=!1,p=null,S=null,T=null,w=null,R=null,E=null,x=null,b=new Ht(0,0,0),k=0,I=!1,D=null,z=null,q=null,P=null,W=null,Y.set(0,0,i.canvas.width,i.canvas.height),pt.set(0,0,i.canvas.width,i.canvas.height),r.reset(),a.reset(),o.reset()}return{buffers:{color:r,depth:a,stencil:o},enable:mt,disable:Ut,bindFramebuffer:ge,drawBuffers:Rt,useProgram:Jt,setBlending:Ie,setMaterial:ye,setFlipSided:We,setCullFace:le,setLineWidth:Si,setPolygonOffset:Ee,setScissorTest:ni,activeTexture:si,bindTexture:ri,unbindTexture:L,compressedTexImage2D:ai,compressedTexImage3D:ae,texImage2D:y,texImage3D:U,pixelStorei:J,getParameter:tt,updateUBOMapping:X,uniformBlockBinding:$,texStorage2D:It,texStorage3D:M,texSubImage2D:oe,texSubImage3D:ut,compressedTexSubImage2D:ve,compressedTexSubImage3D:At,scissor:st,viewport:ct,reset:at}}function Zb(i,t,e,n,s,r,a){let o=t.has("WEBGL_multisampled_render_to_texture")?t.get("WEBGL_multisampled_render_to_texture"):null,l=typeof navigator>"u"?!1:/OculusBrowser/g.test(navigator.userAgent),c=new Ot,h=new WeakMap,d=new Set,u,m=new WeakMap,g=new Set,_=new FinalizationRegistry(M=>g.delete(M)),f=!1;try{f=typeof OffscreenCanvas<"u"&&new OffscreenCanvas(1,1).getContext("2d")!==null}catch{}function p(M,y){return f?new OffscreenCanvas(M,y):Ar("canvas")}function S(M,y,U){let tt=1,J=It(M);if((J.width>U||J.height>U)&&(tt=U/Math.max(J.width,J.height)),tt<1)if(typeof HTMLImageElement<"u"&&M instanceof HTMLImageElement||typeof HTMLCanvasElement<"u"&&M instanceof HTMLCanvasElement||typeof ImageBitmap<"u"&&M instanceof ImageBitmap||typeof VideoFrame<"u"&&M instanceof VideoFrame){let st=Math.floor(tt*J.width),ct=Math.floor(tt*J.height);u===void 0&&(u=p(st,ct));let X=y?p(st,ct):u;return X.width=st,X.height=ct,X.getContext("2d").drawImage(M,0,0,st,ct),Et("WebGLRenderer: Texture has been resized from ("+J.width+"x"+J.height+") to ("+st+"x"+ct+")."),X}else return"data"in M&&Et("WebGLRenderer: Image in DataTexture is too big ("+J.width+"x"+J.height+")."),M;return M}function T(M){return M.generateMipmaps}function w(M){i.generateMipmap(M)}function R(M){return M.isWebGLCubeRenderTarget?i.TEXTURE_CUBE_MAP:M.isWebGL3DRenderTarget?i.TEXTURE_3D:M.isWebGLArrayRenderTarget||M.isCompressedArrayTexture?i.TEXTURE_2D_ARRAY:i.TEXTURE_2D}function E(M,y,U,tt,J,st=!1){if(M!==null){if(i[M]!==void 0)return i[M];Et("WebGLRenderer: Attempt to use non-existing WebGL internal format '"+M+"'")}let ct;tt&&(ct=t.get("EXT_texture_norm16"),ct||Et("WebGLRenderer: Unable to use normalized textures without EXT_texture_norm16 extension"));let X=y;if(y===i.RED&&(U===i.FLOAT&&(X=i.R32F),U===i.HALF_FLOAT&&(X=i.R16F),U===i.UNSIGNED_BYTE&&(X=i.R8),U===i.UNSIGNED_SHORT&&ct&&(X=ct.R16_EXT),U===i.SHORT&&ct&&(X=ct.R16_SNORM_EXT)),y===i.RED_INTEGER&&(U===i.UNSIGNED_BYTE&&(X=i.R8UI),U===i.UNSIGNED_SHORT&&(X=i.R16UI),U===i.UNSIGNED_INT&&(X=i.R32UI),U===i.BYTE&&(X=i.R8I),U===i.SHORT&&(X=i.R16I),U===i.INT&&(X=i.R32I)),y===i.RG&&(U===i.FLOAT&&(X=i.RG32F),U===i.HALF_FLOAT&&(X=i.RG16F),U===i.UNSIGNED_BYTE&&(X=i.RG8),U===i.UNSIGNED_SHORT&&ct&&(X=ct.RG16_EXT),U===i.SHORT&&ct&&(X=ct.RG16_SNORM_EXT)),y===i.RG_INTEGER&&(U===i.UNSIGNED_BYTE&&(X=i.RG8UI),U===i.UNSIGNED_SHORT&&(X=i.RG16UI),U===i.UNSIGNED_INT&&(X=i.RG32UI),U===i.BYTE&&(X=i.RG8I),U===i.SHORT&&(X=i.RG16I),U===i.INT&&(X=i.RG32I)),y===i.RGB_INTEGER&&(U===i.UNSIGNED_BYTE&&(X=i.RGB8UI),U===i.UNSIGNED_SHORT&&(X=i.RGB16UI),U===i.UNSIGNED_INT&&(X=i.RGB32UI),U===i.BYTE&&(X=i.RGB8I),U===i.SHORT&&(X=i.RGB16I),U===i.INT&&(X=i.RGB32I)),y===i.RGBA_INTEGER&&(U===i.UNSIGNED_BYTE&&(X=i.RGBA8UI),U===i.UNSIGNED_SHORT&&(X=i.RGBA16UI),U===i.UNSIGNED_INT&&(X=i.RGBA32UI),U===i.BYTE&&(X=i.RGBA8I),U===i.SHORT&&(X=i.RGBA16I),U===i.INT&&(X=i.RGBA32I)),y===i.RGB&&(U===i.UNSIGNED_SHORT&&ct&&(X=ct.RGB16_EXT),U===i.SHORT&&ct&&(X=ct.RGB16_SNORM_EXT),U===i.UNSIGNED_INT_5_9_9_9_REV&&(X=i.RGB9_E5),U===i.UNSIGNED_INT_10F_11F_11F_REV&&(X=i.R11F_G11F_B10F)),y===i.RGBA){let $=st?Er:Xt.getTransfer(J);U===i.FLOAT&&(X=i.RGBA32F),U===i.HALF_FLOAT&&(X=i.RGBA16F),U===i.UNSIGNED_BYTE&&(X=$===Kt?i.SRGB8_ALPHA8:i.RGBA8),U===i.UNSIGNED_SHORT&&ct&&(X=ct.RGBA16_EXT),U===i.SHORT&&ct&&(X=ct.RGBA16_SNORM_EXT),U===i.UNSIGNED_SHORT_4_4_4_4&&(X=i.RGBA4),U===i.UNSIGNED_SHORT_5_5_5_1&&(X=i.RGB5_A1)}return(X===i.R16F||X===i.R32F||X===i.RG16F||X===i.RG32F||X===i.RGBA16F||X===i.RGBA32F)&&t.get("EXT_color_buffer_float"),X}function x(M,y){let U;return M?y===null||y===_i||y===ts?U=i.DEPTH24_STENCIL8:y===xi?U=i.DEPTH32F_STENCIL8:y===Vs&&(U=i.DEPTH24_STENCIL8,Et("DepthTexture: 16 bit depth attachment is not supported with stencil. Using 24-bit attachment.")):y===null||y===_i||y===ts?U=i.DEPTH_COMPONENT24:y===xi?U=i.DEPTH_COMPONENT32F:y===Vs&&(U=i.DEPTH_COMPONENT16),U}function b(M,y){return T(M)===!0||M.isFramebufferTexture&&M.minFilter!==Pe&&M.minFilter!==Ve?Math.log2(Math.max(y.width,y.height))+1:M.mipmaps.length>0?M.mipmaps.length:M.isCompressedTexture&&Array.isArray(M.image)?y.mipmaps.length:1}function k(M){let y=new WeakRef(M);n.get(M).__ref=y,g.add(y),_.register(M,y,y)}function I(M){let y=n.get(M).__ref;y!==void 0&&(g.delete(y),_.unregister(y))}function D(M){q(M.target)}function z(M){P(M.target)}function q(M){M.removeEventListener("dispose",D),I(M),K(M),M.isVideoTexture&&h.delete(M),M.isHTMLTexture&&d.delete(M)}function P(M){M.removeEventListener("dispose",z),I(M),et(M)}function W(){for(let M of g){let y=M.deref();y!==void 0&&(y.isRenderTarget===!0?P(y):q(y))}g.clear(),d.clear()}function K(M){let y=n.get(M);if(y.__webglInit===void 0)return;let U=M.source,tt=m.get(U);if(tt){let J=tt[y.__cacheKey];J.usedTimes--,J.usedTimes===0&&H(M),Object.keys(tt).length===0&&m.delete(U)}n.remove(M)}function H(M){let y=n.get(M);i.deleteTexture(y.__webglTexture);let U=M.source,tt=m.get(U);delete tt[y.__cacheKey],a.memory.textures--}function et(M){let y=n.get(M);y.__depthDisposeCallback&&y.__depthDisposeCallback();let U=M.depthTexture;if(U&&U.renderTarget===M&&q(U),M.isWebGLCubeRenderTarget)for(let J=0;J<6;J++){if(Array.isArray(y.__webglFramebuffer[J]))for(let st=0;st<y.__webglFramebuffer[J].length;st++)i.deleteFramebuffer(y.__webglFramebuffer[J][st]);else i.deleteFramebuffer(y.__webglFramebuffer[J]);y.__webglDepthbuffer&&i.deleteRenderbuffer(y.__webglDepthbuffer[J])}else{if(Array.isArray(y.__webglFramebuffer))for(let J=0;J<y.__webglFramebuffer.length;J++)i.deleteFramebuffer(y.__webglFramebuffer[J]);else i.deleteFramebuffer(y.__webglFramebuffer);if(y.__webglDepthbuffer&&i.deleteRenderbuffer(y.__webglDepthbuffer),y.__webglMultisampledFramebuffer&&i.deleteFramebuffer(y.__webglMultisampledFramebuffer),y.__webglColorRenderbuffer)for(let J=0;J<y.__webglColorRenderbuffer.length;J++)y.__webglColorRenderbuffer[J]&&i.deleteRenderbuffer(y.__webglColorRenderbuffer[J]);y.__webglDepthRenderbuffer&&i.deleteRenderbuffer(y.__webglDepthRenderbuffer)}let tt=M.textures;for(let J=0,st=tt.length;J<st;J++){let ct=n.get(tt[J]);ct.__webglTexture&&(i.deleteTexture(ct.__webglTexture),a.memory.textures--),n.remove(tt[J])}n.remove(M)}let G=0;function j(){G=0}function Q(){return G}function St(M){G=M}function Lt(){let M=G;return M>=s.maxTextures&&Et("WebGLTextures: Trying to use "+(M+1)+" texture units while this GPU supports only "+s.maxTextures),G+=1,M}function Y(M){let y=[];return y.push(M.wrapS),y.push(M.wrapT),y.push(M.wrapR||0),y.push(M.magFilter),y.push(M.minFilter),y.push(M.anisotropy),y.push(M.internalFormat),y.push(M.format),y.push(M.type),y.push(M.generateMipmaps),y.push(M.mipmapsAutoUpdate),y.push(M.premultiplyAlpha),y.push(M.flipY),y.push(M.unpackAlignment),y.push(M.colorSpace),y.join()}function pt(M,y){let U=n.get(M);if(M.isVideoTexture&&ve(M),M.isRenderTargetTexture===!1&&M.isExternalTexture!==!0&&M.version>0&&U.__version!==M.version){let tt=M.image;if(tt===null)Et("WebGLRenderer: Texture marked for update but no image data found.");else if(tt.complete===!1)Et("WebGLRenderer: Texture marked for update but image is incomplete");else{ye(U,M,y);return}}else M.isExternalTexture&&(U.__webglTexture=M.sourceTexture?M.sourceTexture:null);e.bindTexture(i.TEXTURE_2D,U.__webglTexture,i.TEXTURE0+y)}function xt(M,y){let U=n.get(M);if(M.isRenderTargetTexture===!1&&M.version>0&&U.__version!==M.version){ye(U,M,y);return}else M.isExternalTexture&&(U.__webglTexture=M.sourceTexture?M.sourceTexture:null);e.bindTexture(i.TEXTURE_2D_ARRAY,U.__webglTexture,i.TEXTURE0+y)}function Tt(M,y){let U=n.get(M);if(M.isRenderTargetTexture===!1&&M.version>0&&U.__version!==M.version){ye(U,M,y);return}e.bindTexture(i.TEXTURE_3D,U.__webglTexture,i.TEXTURE0+y)}function mt(M,y){let U=n.get(M);if(M.version>0&&U.__version!==M.version){We(U,M,y);return}e.bindTexture(i.TEXTURE_CUBE_MAP,U.__webglTexture,i.TEXTURE0+y)}let Ut={[bo]:i.REPEAT,[Ri]:i.CLAMP_TO_EDGE,[wo]:i.MIRRORED_REPEAT},ge={[Pe]:i.NEAREST,[Kp]:i.NEAREST_MIPMAP_NEAREST,[Vr]:i.NEAREST_MIPMAP_LINEAR,[Ve]:i.LINEAR,[Jo]:i.LINEAR_MIPMAP_NEAREST,[ji]:i.LINEAR_MIPMAP_LINEAR},Rt={[tm]:i.NEVER,[Qh]:i.ALWAYS,[em]:i.LESS,[Jh]:i.LEQUAL,[im]:i.EQUAL,[jh]:i.GEQUAL,[nm]:i.GREATER,[sm]:i.NOTEQUAL};function Jt(M,y){if(y.type===xi&&t.has("OES_texture_float_linear")===!1&&(y.magFilter===Ve||y.magFilter===Jo||y.magFilter===Vr||y.magFilter===ji||y.minFilter===Ve||y.minFilter===Jo||y.minFilter===Vr||y.minFilter===ji)&&Et("WebGLRenderer: Unable to use linear filtering with floating point textures. OES_texture_float_linear not supported on this device."),i.texParameteri(M,i.TEXTURE_WRAP_S,Ut[y.wrapS]),i.texParameteri(M,i.TEXTURE_WRAP_T,Ut[y.wrapT]),(M===i.TEXTURE_3D||M===i.TEXTURE_2D_ARRAY)&&i.texParameteri(M,i.TEXTURE_WRAP_R,Ut[y.wrapR]),i.texParameteri(M,i.TEXTURE_MAG_FILTER,ge[y.magFilter]),i.texParameteri(M,i.TEXTURE_MIN_FILTER,ge[y.minFilter]),y.compareFunction&&(i.texParameteri(M,i.TEXTURE_COMPARE_MODE,i.COMPARE_REF_TO_TEXTURE),i.texParameteri(M,i.TEXTURE_COMPARE_FUNC,Rt[y.compareFunction])),t.has("EXT_texture_filter_anisotropic")===!0){if(y.magFilter===Pe||y.minFilter!==Vr&&y.minFilter!==ji||y.type===xi&&t.has("OES_texture_float_linear")===!1)return;if(y.anisotropy>1||n.get(y).__currentAnisotropy){let U=t.get("EXT_texture_filter_anisotropic");i.texParameterf(M,U.TEXTURE_MAX_ANISOTROPY_EXT,Math.min(y.anisotropy,s.getMaxAnisotropy())),n.get(y).__currentAnisotropy=y.anisotropy}}}function ee(M,y){let U=!1;M.__webglInit===void 0&&(M.__webglInit=!0,y.addEventListener("dispose",D),k(y));let tt=y.source,J=m.get(tt);J===void 0&&(J={},m.set(tt,J));let st=Y(y);if(st!==M.__cacheKey){J[st]===void 0&&(J[st]={texture:i.createTexture(),usedTimes:0},a.memory.textures++,U=!0),J[st].usedTimes++;let ct=J[M.__cacheKey];ct!==void 0&&(J[M.__cacheKey].usedTimes--,ct.usedTimes===0&&H(y)),M.__cacheKey=st,M.__webglTexture=J[st].texture}return U}function Vt(M,y,U){return Math.floor(Math.floor(M/U)/y)}function Ie(M,y,U,tt){let st=M.updateRanges;if(st.length===0)e.texSubImage2D(i.TEXTURE_2D,0,0,0,y.width,y.height,U,tt,y.data);else{st.sort((A,Z)=>A.start-Z.start);let ct=0;for(let A=1;A<st.length;A++){let Z=st[ct],V=st[A],ot=Z.start+Z.count,nt=Vt(V.start,y.width,4),rt=Vt(Z.start,y.width,4);V.start<=ot+1&&nt===rt&&Vt(V.start+V.count-1,y.width,4)===nt?Z.count=Math.max(Z.count,V.start+V.count-Z.start):(++ct,st[ct]=V)}st.length=ct+1;let X=e.getParameter(i.UNPACK_ROW_LENGTH),$=e.getParameter(i.UNPACK_SKIP_PIXELS),at=e.getParameter(i.UNPACK_SKIP_ROWS);e.pixelStorei(i.UNPACK_ROW_LENGTH,y.width);for(let A=0,Z=st.length;A<Z;A++){let V=st[A],ot=Math.floor(V.start/4),nt=Math.ceil(V.count/4),rt=ot%y.width,bt=Math.floor(ot/y.width),kt=nt,it=1;e.pixelStorei(i.UNPACK_SKIP_PIXELS,rt),e.pixelStorei(i.UNPACK_SKIP_ROWS,bt),e.texSubImage2D(i.TEXTURE_2D,0,rt,bt,kt,it,U,tt,y.data)}M.clearUpdateRanges(),e.pixelStorei(i.UNPACK_ROW_LENGTH,X),e.pixelStorei(i.UNPACK_SKIP_PIXELS,$),e.pixelStorei(i.UNPACK_SKIP_ROWS,at)}}function ye(M,y,U){let tt=i.TEXTURE_2D;(y.isDataArrayTexture||y.isCompressedArrayTexture)&&(tt=i.TEXTURE_2D_ARRAY),y.isData3DTexture&&(tt=i.TEXTURE_3D);let J=ee(M,y),st=y.source;e.bindTexture(tt,M.__webglTexture,i.TEXTURE0+U);let ct=n.get(st);if(st.version!==ct.__version||J===!0){if(e.activeTexture(i.TEXTURE0+U),(typeof ImageBitmap<"u"&&y.image instanceof ImageBitmap)===!1){let it=Xt.getPrimaries(Xt.workingColorSpace),wt=y.colorSpace===tn?null:Xt.getPrimaries(y.colorSpace),Ft=y.colorSpace===tn||it===wt?i.NONE:i.BROWSER_DEFAULT_WEBGL;e.pixelStorei(i.UNPACK_FLIP_Y_WEBGL,y.flipY),e.pixelStorei(i.UNPACK_PREMULTIPLY_ALPHA_WEBGL,y.premultiplyAlpha),e.pixelStorei(i.UNPACK_COLORSPACE_CONVERSION_WEBGL,Ft)}e.pixelStorei(i.UNPACK_ALIGNMENT,y.unpackAlignment);let $=S(y.image,!1,s.maxTextureSize);$=At(y,$);let at=r.convert(y.format,y.colorSpace),A=r.convert(y.type),Z=E(y.internalFormat,at,A,y.normalized,y.colorSpace,y.isVideoTexture);Jt(tt,y);let V,ot=y.mipmaps,nt=y.isVideoTexture!==!0,rt=ct.__version===void 0||J===!0,bt=st.dataReady,kt=b(y,$);if(y.isDepthTexture)Z=x(y.format===Qi,y.type),rt&&(nt?e.texStorage2D(i.TEXTURE_2D,1,Z,$.width,$.height):e.texImage2D(i.TEXTURE_2D,0,Z,$.width,$.height,0,at,A,null));else if(y.isDataTexture)if(ot.length>0){nt&&rt&&e.texStorage2D(i.TEXTURE_2D,kt,Z,ot[0].width,ot[0].height);for(let it=0,wt=ot.length;it<wt;it++)V=ot[it],nt?bt&&e.texSubImage2D(i.TEXTURE_2D,it,0,0,V.width,V.height,at,A,V.data):e.texImage2D(i.TEXTURE_2D,it,Z,V.width,V.height,0,at,A,V.data);y.generateMipmaps=!1}else nt?(rt&&e.texStorage2D(i.TEXTURE_2D,kt,Z,$.width,$.height),bt&&Ie(y,$,at,A)):e.texImage2D(i.TEXTURE_2D,0,Z,$.width,$.height,0,at,A,$.data);else if(y.isCompressedTexture)if(y.isCompressedArrayTexture){nt&&rt&&e.texStorage3D(i.TEXTURE_2D_ARRAY,kt,Z,ot[0].width,ot[0].height,$.depth);for(let it=0,wt=ot.length;it<wt;it++)if(V=ot[it],y.format!==vi)if(at!==null)if(nt){if(bt)if(y.layerUpdates.size>0){let Ft=cu(V.width,V.height,y.format,y.type);for(let dt of y.layerUpdates){let jt=V.data.subarray(dt*Ft/V.data.BYTES_PER_ELEMENT,(dt+1)*Ft/V.data.BYTES_PER_ELEMENT);e.compressedTexSubImage3D(i.TEXTURE_2D_ARRAY,it,0,0,dt,V.width,V.height,1,at,jt)}}else e.compressedTexSubImage3D(i.TEXTURE_2D_ARRAY,it,0,0,0,V.width,V.height,$.depth,at,V.data)}else e.compressedTexImage3D(i.TEXTURE_2D_ARRAY,it,Z,V.width,V.height,$.depth,0,V.data,0,0);else Et("WebGLRenderer: Attempt to load unsupported compressed texture format in .uploadTexture()");else nt?bt&&e.texSubImage3D(i.TEXTURE_2D_ARRAY,it,0,0,0,V.width,V.height,$.depth,at,A,V.data):e.texImage3D(i.TEXTURE_2D_ARRAY,it,Z,V.width,V.height,$.depth,0,at,A,V.data);y.layerUpdates.size>0&&y.clearLayerUpdates()}else{nt&&rt&&e.texStorage2D(i.TEXTURE_2D,kt,Z,ot[0].width,ot[0].height);for(let it=0,wt=ot.length;it<wt;it++)V=ot[it],y.format!==vi?at!==null?nt?bt&&e.compressedTexSubImage2D(i.TEXTURE_2D,it,0,0,V.width,V.height,at,V.data):e.compressedTexImage2D(i.TEXTURE_2D,it,Z,V.width,V.height,0,V.data):Et("WebGLRenderer: Attempt to load unsupported compressed texture format in .uploadTexture()"):nt?bt&&e.texSubImage2D(i.TEXTURE_2D,it,0,0,V.width,V.height,at,A,V.data):e.texImage2D(i.TEXTURE_2D,it,Z,V.width,V.height,0,at,A,V.data)}else if(y.isDataArrayTexture)if(nt){if(rt&&e.texStorage3D(i.TEXTURE_2D_ARRAY,kt,Z,$.width,$.height,$.depth),bt)if(y.layerUpdates.size>0){let it=cu($.width,$.height,y.format,y.type);for(let wt of y.layerUpdates){let Ft=$.data.subarray(wt*it/$.data.BYTES_PER_ELEMENT,(wt+1)*it/$.data.BYTES_PER_ELEMENT);e.texSubImage3D(i.TEXTURE_2D_ARRAY,0,0,0,wt,$.width,$.height,1,at,A,Ft)}y.clearLayerUpdates()}else e.texSubImage3D(i.TEXTURE_2D_ARRAY,0,0,0,0,$.width,$.height,$.depth,at,A,$.data)}else e.texImage3D(i.TEXTURE_2D_ARRAY,0,Z,$.width,$.height,$.depth,0,at,A,$.data);else if(y.isData3DTexture)nt?(rt&&e.texStorage3D(i.TEXTURE_3D,kt,Z,$.width,$.height,$.depth),bt&&e.texSubImage3D(i.TEXTURE_3D,0,0,0,0,$.width,$.height,$.depth,at,A,$.data)):e.texImage3D(i.TEXTURE_3D,0,Z,$.width,$.height,$.depth,0,at,A,$.data);else if(y.isFramebufferTexture){if(rt)if(nt)e.texStorage2D(i.TEXTURE_2D,kt,Z,$.width,$.height);else{let it=$.width,wt=$.height;for(let Ft=0;Ft<kt;Ft++)e.texImage2D(i.TEXTURE_2D,Ft,Z,it,wt,0,at,A,null),it>>=1,wt>>=1}}else if(y.isHTMLTexture){if("texElementImage2D"in i){let it=i.canvas;if(it.hasAttribute("layoutsubtree")||it.setAttribute("layoutsubtree","true"),$.parentNode!==it){it.appendChild($),d.add(y),it.onpaint=wt=>{let Ft=wt.changedElements;for(let dt of d)Ft.includes(dt.image)&&(dt.needsUpdate=!0)},it.requestPaint();return}if(i.texElementImage2D.length===3)i.texElementImage2D(i.TEXTURE_2D,i.RGBA8,$);else{let Ft=i.RGBA,dt=i.RGBA,jt=i.UNSIGNED_BYTE;i.texElementImage2D(i.TEXTURE_2D,0,Ft,dt,jt,$)}i.texParameteri(i.TEXTURE_2D,i.TEXTURE_MIN_FILTER,i.LINEAR),i.texParameteri(i.TEXTURE_2D,i.TEXTURE_WRAP_S,i.CLAMP_TO_EDGE),i.texParameteri(i.TEXTURE_2D,i.TEXTURE_WRAP_T,i.CLAMP_TO_EDGE)}}else if(ot.length>0){if(nt&&rt){let it=It(ot[0]);e.texStorage2D(i.TEXTURE_2D,kt,Z,it.width,it.height)}for(let it=0,wt=ot.length;it<wt;it++)V=ot[it],nt?bt&&e.texSubImage2D(i.TEXTURE_2D,it,0,0,at,A,V):e.texImage2D(i.TEXTURE_2D,it,Z,at,A,V);y.generateMipmaps=!1}else if(nt){if(rt){let it=It($);e.texStorage2D(i.TEXTURE_2D,kt,Z,it.width,it.height)}bt&&e.texSubImage2D(i.TEXTURE_2D,0,0,0,at,A,$)}else e.texImage2D(i.TEXTURE_2D,0,Z,at,A,$);T(y)&&y.mipmapsAutoUpdate===!0&&w(tt),ct.__version=st.version,y.onUpdate&&y.onUpdate(y)}M.__version=y.version}function We(M,y,U){if(y.image.length!==6)return;let tt=ee(M,y),J=y.source;e.bindTexture(i.TEXTURE_CUBE_MAP,M.__webglTexture,i.TEXTURE0+U);let st=n.get(J);if(J.version!==st.__version||tt===!0){e.activeTexture(i.TEXTURE0+U);let ct=Xt.getPrimaries(Xt.workingColorSpace),X=y.colorSpace===tn?null:Xt.getPrimaries(y.colorSpace),$=y.colorSpace===tn||ct===X?i.NONE:i.BROWSER_DEFAULT_WEBGL;e.pixelStorei(i.UNPACK_FLIP_Y_WEBGL,y.flipY),e.pixelStorei(i.UNPACK_PREMULTIPLY_ALPHA_WEBGL,y.premultiplyAlpha),e.pixelStorei(i.UNPACK_ALIGNMENT,y.unpackAlignment),e.pixelStorei(i.UNPACK_COLORSPACE_CONVERSION_WEBGL,$);let at=y.isCompressedTexture||y.image[0].isCompressedTexture,A=y.image[0]&&y.image[0].isDataTexture,Z=[];for(let dt=0;dt<6;dt++)!at&&!A?Z[dt]=S(y.image[dt],!0,s.maxCubemapSize):Z[dt]=A?y.image[dt].image:y.image[dt],Z[dt]=At(y,Z[dt]);let V=Z[0],ot=r.convert(y.format,y.colorSpace),nt=r.convert(y.type),rt=E(y.internalFormat,ot,nt,y.normalized,y.colorSpace),bt=y.isVideoTexture!==!0,kt=st.__version===void 0||tt===!0,it=J.dataReady,wt=b(y,V);Jt(i.TEXTURE_CUBE_MAP,y);let Ft;if(y.isDepthTexture){if(rt=x(y.format===Qi,y.type),kt)if(bt)e.texStorage2D(i.TEXTURE_CUBE_MAP,1,rt,V.width,V.height);else for(let dt=0;dt<6;dt++)e.texImage2D(i.TEXTURE_CUBE_MAP_POSITIVE_X+dt,0,rt,V.width,V.height,0,ot,nt,null)}else if(at){bt&&kt&&e.texStorage2D(i.TEXTURE_CUBE_MAP,wt,rt,V.width,V.height);for(let dt=0;dt<6;dt++){Ft=Z[dt].mipmaps;for(let jt=0;jt<Ft.length;jt++){let Te=Ft[jt];y.format!==vi?ot!==null?bt?it&&e.compressedTexSubImage2D(i.TEXTURE_CUBE_MAP_POSITIVE_X+dt,jt,0,0,Te.width,Te.height,ot,Te.data):e.compressedTexImage2D(i.TEXTURE_CUBE_MAP_POSITIVE_X+dt,jt,rt,Te.width,Te.height,0,Te.data):Et("WebGLRenderer: Attempt to load unsupported compressed texture format in .setTextureCube()"):bt?it&&e.texSubImage2D(i.TEXTURE_CUBE_MAP_POSITIVE_X+dt,jt,0,0,Te.width,Te.height,ot,nt,Te.data):e.texImage2D(i.TEXTURE_CUBE_MAP_POSITIVE_X+dt,jt,rt,Te.width,Te.height,0,ot,nt,Te.data)}}}else{if(Ft=y.mipmaps,bt&&kt){Ft.length>0&&wt++;let dt=It(Z[0]);e.texStorage2D(i.TEXTURE_CUBE_MAP,wt,rt,dt.width,dt.height)}for(let dt=0;dt<6;dt++)if(A){bt?it&&e.texSubImage2D(i.TEXTURE_CUBE_MAP_POSITIVE_X+dt,0,0,0,Z[dt].width,Z[dt].height,ot,nt,Z[dt].data):e.texImage2D(i.TEXTURE_CUBE_MAP_POSITIVE_X+dt,0,rt,Z[dt].width,Z[dt].height,0,ot,nt,Z[dt].data);for(let jt=0;jt<Ft.length;jt++){let en=Ft[jt].image[dt].image;bt?it&&e.texSubImage2D(i.TEXTURE_CUBE_MAP_POSITIVE_X+dt,jt+1,0,0,en.width,en.height,ot,nt,en.data):e.texImage2D(i.TEXTURE_CUBE_MAP_POSITIVE_X+dt,jt+1,rt,en.width,en.height,0,ot,nt,en.data)}}else{bt?it&&e.texSubImage2D(i.TEXTURE_CUBE_MAP_POSITIVE_X+dt,0,0,0,ot,nt,Z[dt]):e.texImage2D(i.TEXTURE_CUBE_MAP_POSITIVE_X+dt,0,rt,ot,nt,Z[dt]);for(let jt=0;jt<Ft.length;jt++){let Te=Ft[jt];bt?it&&e.texSubImage2D(i.TEXTURE_CUBE_MAP_POSITIVE_X+dt,jt+1,0,0,ot,nt,Te.image[dt]):e.texImage2D(i.TEXTURE_CUBE_MAP_POSITIVE_X+dt,jt+1,rt,ot,nt,Te.image[dt])}}}T(y)&&y.mipmapsAutoUpdate===!0&&w(i.TEXTURE_CUBE_MAP),st.__version=J.version,y.onUpdate&&y.onUpdate(y)}M.__version=y.version}function le(M,y,U,tt,J,st){let ct=r.convert(U.format,U.colorSpace),X=r.convert(U.type),$=E(U.internalFormat,ct,X,U.normalized,U.colorSpace),at=n.get(y),A=n.get(U);if(A.__renderTarget=y,!at.__hasExternalTextures){let Z=Math.max(1,y.width>>st),V=Math.max(1,y.height>>st);J===i.TEXTURE_3D||J===i.TEXTURE_2D_ARRAY?e.texImage3D(J,st,$,Z,V,y.depth,0,ct,X,null):e.texImage2D(J,st,$,Z,V,0,ct,X,null)}e.bindFramebuffer(i.FRAMEBUFFER,M),ut(y)?o.framebufferTexture2DMultisampleEXT(i.FRAMEBUFFER,tt,J,A.__webglTexture,0,oe(y)):(J===i.TEXTURE_2D||J>=i.TEXTURE_CUBE_MAP_POSITIVE_X&&J<=i.TEXTURE_CUBE_MAP_NEGATIVE_Z)&&i.framebufferTexture2D(i.FRAMEBUFFER,tt,J,A.__webglTexture,st),e.bindFramebuffer(i.FRAMEBUFFER,null)}function Si(M,y,U){if(i.bindRenderbuffer(i.RENDERBUFFER,M),y.depthBuffer){let tt=y.depthTexture,J=tt&&tt.isDepthTexture?tt.type:null,st=x(y.stencilBuffer,J),ct=y.stencilBuffer?i.DEPTH_STENCIL_ATTACHMENT:i.DEPTH_ATTACHMENT;ut(y)?o.renderbufferStorageMultisampleEXT(i.RENDERBUFFER,oe(y),st,y.width,y.height):U?i.renderbufferStorageMultisample(i.RENDERBUFFER,oe(y),st,y.width,y.height):i.renderbufferStorage(i.RENDERBUFFER,st,y.width,y.height),i.framebufferRenderbuffer(i.FRAMEBUFFER,ct,i.RENDERBUFFER,M)}else{let tt=y.textures;for(let J=0;J<tt.length;J++){let st=tt[J],ct=r.convert(st.format,st.colorSpace),X=r.convert(st.type),$=E(st.internalFormat,ct,X,st.normalized,st.colorSpace);ut(y)?o.renderbufferStorageMultisampleEXT(i.RENDERBUFFER,oe(y),$,y.width,y.height):U?i.renderbufferStorageMultisample(i.RENDERBUFFER,oe(y),$,y.width,y.height):i.renderbufferStorage(i.RENDERBUFFER,$,y.width,y.height)}}i.bindRenderbuffer(i.RENDERBUFFER,null)}function Ee(M,y,U){let tt=y.isWebGLCubeRenderTarget===!0;if(e.bindFramebuffer(i.FRAMEBUFFER,M),!(y.depthTexture&&y.depthTexture.isDepthTexture))throw new Error("THREE.WebGLTextures: renderTarget.depthTexture must be an instance of THREE.DepthTexture.");let J=n.get(y.depthTexture);J.__renderTarget=y;let st=tt?y.depthTexture.image[0]:y.depthTexture.image;(!J.__webglTexture||st.width!==y.width||st.height!==y.height)&&(st.width=y.width,st.height=y.height,y.depthTexture.needsUpdate=!0),tt?mt(y.depthTexture,0):pt(y.depthTexture,0);let ct=J.__webglTexture,X=oe(y),$=tt?i.TEXTURE_CUBE_MAP_POSITIVE_X+U:i.TEXTURE_2D,at=y.depthTexture.format===Qi?i.DEPTH_STENCIL_ATTACHMENT:i.DEPTH_ATTACHMENT;if(y.depthTexture.format===Zi)ut(y)?o.framebufferTexture2DMultisampleEXT(i.FRAMEBUFFER,at,$,ct,0,X):i.framebufferTexture2D(i.FRAMEBUFFER,at,$,ct,0);else if(y.depthTexture.format===Qi)ut(y)?o.framebufferTexture2DMultisampleEXT(i.FRAMEBUFFER,at,$,ct,0,X):i.framebufferTexture2D(i.FRAMEBUFFER,at,$,ct,0);else throw new Error("THREE.WebGLTextures: Unknown depthTexture format.")}function ni(M){let y=n.get(M),U=M.isWebGLCubeRenderTarget===!0;if(y.__boundDepthTexture!==M.depthTexture){let tt=M.depthTexture;if(y.__depthDisposeCallback&&y.__depthDisposeCallback(),tt){let J=()=>{delete y.__boundDepthTexture,delete y.__depthDisposeCallback,tt.removeEventListener("dispose",J)};tt.addEventListener("dispose",J),y.__depthDisposeCallback=J}y.__boundDepthTexture=tt}if(M.depthTexture&&!y.__autoAllocateDepthBuffer)if(U)for(let tt=0;tt<6;tt++)Ee(y.__webglFramebuffer[tt],M,tt);else M.texture.mipmaps.length>0?Ee(y.__webglFramebuffer[0],M,0):Ee(y.__webglFramebuffer,M,0);else if(U){y.__webglDepthbuffer=[];for(let tt=0;tt<6;tt++)if(e.bindFramebuffer(i.FRAMEBUFFER,y.__webglFramebuffer[tt]),y.__webglDepthbuffer[tt]===void 0)y.__webglDepthbuffer[tt]=i.createRenderbuffer(),Si(y.__webglDepthbuffer[tt],M,!1);else{let J=M.stencilBuffer?i.DEPTH_STENCIL_ATTACHMENT:i.DEPTH_ATTACHMENT,st=y.__webglDepthbuffer[tt];i.bindRenderbuffer(i.RENDERBUFFER,st),i.framebufferRenderbuffer(i.FRAMEBUFFER,J,i.RENDERBUFFER,st)}}else if(M.texture.mipmaps.length>0?e.bindFramebuffer(i.FRAMEBUFFER,y.__webglFramebuffer[0]):e.bindFramebuffer(i.FRAMEBUFFER,y.__webglFramebuffer),y.__webglDepthbuffer===void 0)y.__webglDepthbuffer=i.createRenderbuffer(),Si(y.__webglDepthbuffer,M,!1);else{let J=M.stencilBuffer?i.DEPTH_STENCIL_ATTACHMENT:i.DEPTH_ATTACHMENT,st=y.__webglDepthbuffer;i.bindRenderbuffer(i.RENDERBUFFER,st),i.framebufferRenderbuffer(i.FRAMEBUFFER,J,i.RENDERBUFFER,st)}e.bindFramebuffer(i.FRAMEBUFFER,null)}function si(M,y,U){let tt=n.get(M);y!==void 0&&le(tt.__webglFramebuffer,M,M.texture,i.COLOR_ATTACHMENT0,i.TEXTURE_2D,0),U!==void 0&&ni(M)}function ri(M){let y=M.texture,U=n.get(M),tt=n.get(y);M.addEventListener("dispose",z),k(M);let J=M.textures,st=M.isWebGLCubeRenderTarget===!0,ct=J.length>1;if(ct||(tt.__webglTexture===void 0&&(tt.__webglTexture=i.createTexture()),tt.__version=y.version,a.memory.textures++),st){U.__webglFramebuffer=[];for(let X=0;X<6;X++)if(y.mipmaps.length>0){U.__webglFramebuffer[X]=[];for(let $=0;$<y.mipmaps.length;$++)U.__webglFramebuffer[X][$]=i.createFramebuffer()}else U.__webglFramebuffer[X]=i.createFramebuffer()}else{if(y.mipmaps.length>0){U.__webglFramebuffer=[];for(let X=0;X<y.mipmaps.length;X++)U.__webglFramebuffer[X]=i.createFramebuffer()}else U.__webglFramebuffer=i.createFramebuffer();if(ct)for(let X=0,$=J.length;X<$;X++){let at=n.get(J[X]);at.__webglTexture===void 0&&(at.__webglTexture=i.createTexture(),a.memory.textures++)}if(M.samples>0&&ut(M)===!1){U.__webglMultisampledFramebuffer=i.createFramebuffer(),U.__webglColorRenderbuffer=[],e.bindFramebuffer(i.FRAMEBUFFER,U.__webglMultisampledFramebuffer);for(let X=0;X<J.length;X++){let $=J[X];U.__webglColorRenderbuffer[X]=i.createRenderbuffer(),i.bindRenderbuffer(i.RENDERBUFFER,U.__webglColorRenderbuffer[X]);let at=r.convert($.format,$.colorSpace),A=r.convert($.type),Z=E($.internalFormat,at,A,$.normalized,$.colorSpace,M.isXRRenderTarget===!0),V=oe(M);i.renderbufferStorageMultisample(i.RENDERBUFFER,V,Z,M.width,M.height),i.framebufferRenderbuffer(i.FRAMEBUFFER,i.COLOR_ATTACHMENT0+X,i.RENDERBUFFER,U.__webglColorRenderbuffer[X])}i.bindRenderbuffer(i.RENDERBUFFER,null),M.depthBuffer&&(U.__webglDepthRenderbuffer=i.createRenderbuffer(),Si(U.__webglDepthRenderbuffer,M,!0)),e.bindFramebuffer(i.FRAMEBUFFER,null)}}if(st){e.bindTexture(i.TEXTURE_CUBE_MAP,tt.__webglTexture),Jt(i.TEXTURE_CUBE_MAP,y);for(let X=0;X<6;X++)if(y.mipmaps.length>0)for(let $=0;$<y.mipmaps.length;$++)le(U.__webglFramebuffer[X][$],M,y,i.COLOR_ATTACHMENT0,i.TEXTURE_CUBE_MAP_POSITIVE_X+X,$);else le(U.__webglFramebuffer[X],M,y,i.COLOR_ATTACHMENT0,i.TEXTURE_CUBE_MAP_POSITIVE_X+X,0);T(y)?w(i.TEXTURE_CUBE_MAP):y.mipmaps.length>0&&i.texParameteri(i.TEXTURE_CUBE_MAP,i.TEXTURE_MAX_LEVEL,y.mipmaps.length-1),e.unbindTexture()}else if(ct){for(let X=0,$=J.length;X<$;X++){let at=J[X],A=n.get(at),Z=i.TEXTURE_2D;(M.isWebGL3DRenderTarget||M.isWebGLArrayRenderTarget)&&(Z=M.isWebGL3DRenderTarget?i.TEXTURE_3D:i.TEXTURE_2D_ARRAY),e.bindTexture(Z,A.__webglTexture),Jt(Z,at),le(U.__webglFramebuffer,M,at,i.COLOR_ATTACHMENT0+X,Z,0),T(at)&&w(Z)}e.unbindTexture()}else{let X=i.TEXTURE_2D;if((M.isWebGL3DRenderTarget||M.isWebGLArrayRenderTarget)&&(X=M.isWebGL3DRenderTarget?i.TEXTURE_3D:i.TEXTURE_2D_ARRAY),e.bindTexture(X,tt.__webglTexture),Jt(X,y),y.mipmaps.length>0)for(let $=0;$<y.mipmaps.length;$++)le(U.__webglFramebuffer[$],M,y,i.COLOR_ATTACHMENT0,X,$);else le(U.__webglFramebuffer,M,y,i.COLOR_ATTACHMENT0,X,0);T(y)?w(X):y.mipmaps.length>0&&i.texParameteri(X,i.TEXTURE_MAX_LEVEL,y.mipmaps.length-1),e.unbindTexture()}M.depthBuffer&&ni(M)}function L(M){let y=M.textures;for(let U=0,tt=y.length;U<tt;U++){let J=y[U];if(T(J)&&J.mipmapsAutoUpdate===!0){let st=R(M),ct=n.get(J).__webglTexture;e.bindTexture(st,ct),w(st),e.unbindTexture()}}}let ai=[];function ae(M){if(M.samples>0){if(ut(M)===!1){let y=M.textures,U=M.width,tt=M.height,J=i.COLOR_BUFFER_BIT,st=M.stencilBuffer?i.DEPTH_STENCIL_ATTACHMENT:i.DEPTH_ATTACHMENT,ct=n.get(M),X=y.length>1;if(X)for(let at=0;at<y.length;at++)e.bindFramebuffer(i.FRAMEBUFFER,ct.__webglMultisampledFramebuffer),i.framebufferRenderbuffer(i.FRAMEBUFFER,i.COLOR_ATTACHMENT0+at,i.RENDERBUFFER,null),e.bindFramebuffer(i.FRAMEBUFFER,ct.__webglFramebuffer),i.framebufferTexture2D(i.DRAW_FRAMEBUFFER,i.COLOR_ATTACHMENT0+at,i.TEXTURE_2D,null,0);e.bindFramebuffer(i.READ_FRAMEBUFFER,ct.__webglMultisampledFramebuffer),M.texture.mipmaps.length>0?e.bindFramebuffer(i.DRAW_FRAMEBUFFER,ct.__webglFramebuffer[0]):e.bindFramebuffer(i.DRAW_FRAMEBUFFER,ct.__webglFramebuffer);for(let at=0;at<y.length;at++){if(M.resolveDepthBuffer&&(M.depthBuffer&&(J|=i.DEPTH_BUFFER_BIT),M.stencilBuffer&&M.resolveStencilBuffer&&(J|=i.STENCIL_BUFFER_BIT)),X){i.framebufferRenderbuffer(i.READ_FRAMEBUFFER,i.COLOR_ATTACHMENT0,i.RENDERBUFFER,ct.__webglColorRenderbuffer[at]);let A=n.get(y[at]).__webglTexture;i.framebufferTexture2D(i.DRAW_FRAMEBUFFER,i.COLOR_ATTACHMENT0,i.TEXTURE_2D,A,0)}i.blitFramebuffer(0,0,U,tt,0,0,U,tt,J,i.NEAREST),l===!0&&(ai.length=0,ai.push(i.COLOR_ATTACHMENT0+at),M.depthBuffer&&M.storeMultisampledDepthBuffer===!1&&ai.push(st),i.invalidateFramebuffer(i.READ_FRAMEBUFFER,ai))}if(e.bindFramebuffer(i.READ_FRAMEBUFFER,null),e.bindFramebuffer(i.DRAW_FRAMEBUFFER,null),X)for(let at=0;at<y.length;at++){e.bindFramebuffer(i.FRAMEBUFFER,ct.__webglMultisampledFramebuffer),i.framebufferRenderbuffer(i.FRAMEBUFFER,i.COLOR_ATTACHMENT0+at,i.RENDERBUFFER,ct.__webglColorRenderbuffer[at]);let A=n.get(y[at]).__webglTexture;e.bindFramebuffer(i.FRAMEBUFFER,ct.__webglFramebuffer),i.framebufferTexture2D(i.DRAW_FRAMEBUFFER,i.COLOR_ATTACHMENT0+at,i.TEXTURE_2D,A,0)}e.bindFramebuffer(i.DRAW_FRAMEBUFFER,ct.__webglMultisampledFramebuffer)}else if(M.depthBuffer&&M.storeMultisampledDepthBuffer===!1&&l){let y=M.stencilBuffer?i.DEPTH_STENCIL_ATTACHMENT:i.DEPTH_ATTACHMENT;i.invalidateFramebuffer(i.DRAW_FRAMEBUFFER,[y])}}}function oe(M){return Math.min(s.maxSamples,M.samples)}function ut(M){let y=n.get(M);return M.samples>0&&t.has("WEBGL_multisampled_render_to_texture")===!0&&y.__useRenderToTexture!==!1}function ve(M){let y=a.render.frame;h.get(M)!==y&&(h.set(M,y),M.update())}function At(M,y){let U=M.colorSpace,tt=M.format,J=M.type;return M.isCompressedTexture===!0||M.isVideoTexture===!0||U!==wr&&U!==tn&&(Xt.getTransfer(U)===Kt?(tt!==vi||J!==ii)&&Et("WebGLTextures: sRGB encoded textures have to use RGBAFormat and UnsignedByteType."):Ct("WebGLTextures: Unsupported texture color space:",U)),y}function It(M){return typeof HTMLImageElement<"u"&&M instanceof HTMLImageElement?(c.width=M.naturalWidth||M.width,c.height=M.naturalHeight||M.height):typeof VideoFrame<"u"&&M instanceof VideoFrame?(c.width=M.displayWidth,c.height=M.displayHeight):(c.width=M.width,c.height=M.height),c}this.allocateTextureUnit=Lt,this.resetTextureUnits=j,this.getTextureUnits=Q,this.setTextureUnits=St,this.setTexture2D=pt,this.setTexture2DArray=xt,this.setTexture3D=Tt,this.setTextureCube=mt,this.rebindTextures=si,this.setupRenderTarget=ri,this.updateRenderTargetMipmap=L,this.updateMultisampleRenderTarget=ae,this.setupDepthRenderbuffer=ni,this.setupFrameBufferTexture=le,this.useMultisampledRTT=ut,this.dispose=W}function Kb(i,t){function e(n,s=tn){let r,a=Xt.getTransfer(s);if(n===ii)return i.UNSIGNED_BYTE;if(n===Qo)return i.UNSIGNED_SHORT_4_4_4_4;if(n===tl)return i.UNSIGNED_SHORT_5_5_5_1;if(n===Xh)return i.UNSIGNED_INT_5_9_9_9_REV;if(n===qh)return i.UNSIGNED_INT_10F_11F_11F_REV;if(n===Gh)return i.BYTE;if(n===Wh)return i.SHORT;if(n===Vs)return i.UNSIGNED_SHORT;if(n===jo)return i.INT;if(n===_i)return i.UNSIGNED_INT;if(n===xi)return i.FLOAT;if(n===yi)return i.HALF_FLOAT;if(n===$h)return i.ALPHA;if(n===Yh)return i.RGB;if(n===vi)return i.RGBA;if(n===Zi)return i.DEPTH_COMPONENT;if(n===Qi)return i.DEPTH_STENCIL;if(n===Zh)return i.RED;if(n===el)return i.RED_INTEGER;if(n===wn)return i.RG;if(n===il)return i.RG_INTEGER;if(n===nl)return i.RGBA_INTEGER;if(n===Gr||n===Wr||n===Xr||n===qr)if(a===Kt)if(r=t.get("WEBGL_compressed_texture_s3tc_srgb"),r!==null){if(n===Gr)return r.COMPRESSED_SRGB_S3TC_DXT1_EXT;if(n===Wr)return r.COMPRESSED_SRGB_ALPHA_S3TC_DXT1_EXT;if(n===Xr)return r.COMPRESSED_SRGB_ALPHA_S3TC_DXT3_EXT;if(n===qr)return r.COMPRESSED_SRGB_ALPHA_S3TC_DXT5_EXT}else return null;else if(r=t.get("WEBGL_compressed_texture_s3tc"),r!==null){if(n===Gr)return r.COMPRESSED_RGB_S3TC_DXT1_EXT;if(n===Wr)return r.COMPRESSED_RGBA_S3TC_DXT1_EXT;if(n===Xr)return r.COMPRESSED_RGBA_S3TC_DXT3_EXT;if(n===qr)return r.COMPRESSED_RGBA_S3TC_DXT5_EXT}else return null;if(n===sl||n===rl||n===al||n===ol)if(r=t.get("WEBGL_compressed_texture_pvrtc"),r!==null){if(n===sl)return r.COMPRESSED_RGB_PVRTC_4BPPV1_IMG;if(n===rl)return r.COMPRESSED_RGB_PVRTC_2BPPV1_IMG;if(n===al)return r.COMPRESSED_RGBA_PVRTC_4BPPV1_IMG;if(n===ol)return r.COMPRESSED_RGBA_PVRTC_2BPPV1_IMG}else return null;if(n===ll||n===cl||n===hl||n===ul||n===dl||n===$r||n===fl)if(r=t.get("WEBGL_compressed_texture_etc"),r!==null){if(n===ll||n===cl)return a===Kt?r.COMPRESSED_SRGB8_ETC2:r.COMPRESSED_RGB8_ETC2;if(n===hl)return a===Kt?r.COMPRESSED_SRGB8_ALPHA8_ETC2_EAC:r.COMPRESSED_RGBA8_ETC2_EAC;if(n===ul)return r.COMPRESSED_R11_EAC;if(n===dl)return r.COMPRESSED_SIGNED_R11_EAC;if(n===$r)return r.COMPRESSED_RG11_EAC;if(n===fl)return r.COMPRESSED_SIGNED_RG11_EAC}else return null;if(n===pl||n===ml||n===gl||n===_l||n===xl||n===yl||n===vl||n===Sl||n===Ml||n===bl||n===wl||n===El||n===Tl||n===Al)if(r=t.get("WEBGL_compressed_texture_astc"),r!==null){if(n===pl)return a===Kt?r.COMPRESSED_SRGB8_ALPHA8_ASTC_4x4_KHR:r.COMPRESSED_RGBA_ASTC_4x4_KHR;if(n===ml)return a===Kt?r.COMPRESSED_SRGB8_ALPHA8_ASTC_5x4_KHR:r.COMPRESSED_RGBA_ASTC_5x4_KHR;if(n===gl)return a===Kt?r.COMPRESSED_SRGB8_ALPHA8_ASTC_5x5_KHR:r.COMPRESSED_RGBA_ASTC_5x5_KHR;if(n===_l)return a===Kt?r.COMPRESSED_SRGB8_ALPHA8_ASTC_6x5_KHR:r.COMPRESSED_RGBA_ASTC_6x5_KHR;if(n===xl)return a===Kt?r.COMPRESSED_SRGB8_ALPHA8_ASTC_6x6_KHR:r.COMPRESSED_RGBA_ASTC_6x6_KHR;if(n===yl)return a===Kt?r.COMPRESSED_SRGB8_ALPHA8_ASTC_8x5_KHR:r.COMPRESSED_RGBA_ASTC_8x5_KHR;if(n===vl)return a===Kt?r.COMPRESSED_SRGB8_ALPHA8_ASTC_8x6_KHR:r.COMPRESSED_RGBA_ASTC_8x6_KHR;if(n===Sl)return a===Kt?r.COMPRESSED_SRGB8_ALPHA8_ASTC_8x8_KHR:r.COMPRESSED_RGBA_ASTC_8x8_KHR;if(n===Ml)return a===Kt?r.COMPRESSED_SRGB8_ALPHA8_ASTC_10x5_KHR:r.COMPRESSED_RGBA_ASTC_10x5_KHR;if(n===bl)return a===Kt?r.COMPRESSED_SRGB8_ALPHA8_ASTC_10x6_KHR:r.COMPRESSED_RGBA_ASTC_10x6_KHR;if(n===wl)return a===Kt?r.COMPRESSED_SRGB8_ALPHA8_ASTC_10x8_KHR:r.COMPRESSED_RGBA_ASTC_10x8_KHR;if(n===El)return a===Kt?r.COMPRESSED_SRGB8_ALPHA8_ASTC_10x10_KHR:r.COMPRESSED_RGBA_ASTC_10x10_KHR;if(n===Tl)return a===Kt?r.COMPRESSED_SRGB8_ALPHA8_ASTC_12x10_KHR:r.COMPRESSED_RGBA_ASTC_12x10_KHR;if(n===Al)return a===Kt?r.COMPRESSED_SRGB8_ALPHA8_ASTC_12x12_KHR:r.COMPRESSED_RGBA_ASTC_12x12_KHR}else return null;if(n===Rl||n===Cl||n===Pl)if(r=t.get("EXT_texture_compression_bptc"),r!==null){if(n===Rl)return a===Kt?r.COMPRESSED_SRGB_ALPHA_BPTC_UNORM_EXT:r.COMPRESSED_RGBA_BPTC_UNORM_EXT;if(n===Cl)return r.COMPRESSED_RGB_BPTC_SIGNED_FLOAT_EXT;if(n===Pl)return r.COMPRESSED_RGB_BPTC_UNSIGNED_FLOAT_EXT}else return null;if(n===Il||n===Ll||n===Yr||n===Dl)if(r=t.get("EXT_texture_compression_rgtc"),r!==null){if(n===Il)return r.COMPRESSED_RED_RGTC1_EXT;if(n===Ll)return r.COMPRESSED_SIGNED_RED_RGTC1_EXT;if(n===Yr)return r.COMPRESSED_RED_GREEN_RGTC2_EXT;if(n===Dl)return r.COMPRESSED_SIGNED_RED_GREEN_RGTC2_EXT}else return null;return n===ts?i.UNSIGNED_INT_24_8:i[n]!==void 0?i[n]:null}return{convert:e}}var Jb=`
void main() {

	gl_Position = vec4( position, 1.0 );

}`,jb=`
uniform sampler2DArray depthColor;
uniform float depthWidth;
uniform float depthHeight;

void main() {

	vec2 coord = vec2( gl_FragCoord.x / depthWidth, gl_FragCoord.y / depthHeight );

	if ( coord.x >= 1.0 ) {

		gl_FragDepth = texture( depthColor, vec3( coord.x - 1.0, coord.y, 1 ) ).r;

	} else {

		gl_FragDepth = texture( depthColor, vec3( coord.x, coord.y, 0 ) ).r;

	}

}`,xu=class{constructor(){this.texture=null,this.mesh=null,this.depthNear=0,this.depthFar=0}init(t,e){if(this.texture===null){let n=new Or(t.texture);(t.depthNear!==e.depthNear||t.depthFar!==e.depthFar)&&(this.depthNear=t.depthNear,this.depthFar=t.depthFar),this.texture=n}}getMesh(t){if(this.texture!==null&&this.mesh===null){let e=t.cameras[0].viewport,n=new Li({vertexShader:Jb,fragmentShader:jb,uniforms:{depthColor:{value:this.texture},depthWidth:{value:e.z},depthHeight:{value:e.w}}});this.mesh=new Ii(new Ur(20,20),n)}return this.mesh}reset(){this.texture=null,this.mesh=null}getDepthTexture(){return this.texture}},yu=class extends gi{constructor(t,e){super();let n=this,s=null,r=1,a=null,o="local-floor",l=1,c=null,h=null,d=null,u=null,m=null,g=null,_=typeof XRWebGLBinding<"u",f=new xu,p={},S=e.getContextAttributes(),T=null,w=null,R=[],E=[],x=new Ot,b=null,k=null,I=new He;I.viewport=new ue;let D=new He;D.viewport=new ue;let z=[I,D],q=new Yo,P=null,W=null;this.cameraAutoUpdate=!0,this.enabled=!1,this.isPresenting=!1,this.getController=function(Y){let pt=R[Y];return pt===void 0&&(pt=new Ls,R[Y]=pt),pt.getTargetRaySpace()},this.getControllerGrip=function(Y){let pt=R[Y];return pt===void 0&&(pt=new Ls,R[Y]=pt),pt.getGripSpace()},this.getHand=function(Y){let pt=R[Y];return pt===void 0&&(pt=new Ls,R[Y]=pt),pt.getHandSpace()};function K(Y){let pt=E.indexOf(Y.inputSource);if(pt===-1)return;let xt=R[pt];xt!==void 0&&(xt.update(Y.inputSource,Y.frame,c||a),xt.dispatchEvent({type:Y.type,data:Y.inputSource}))}function H(){s.removeEventListener("select",K),s.removeEventListener("selectstart",K),s.removeEventListener("selectend",K),s.removeEventListener("squeeze",K),s.removeEventListener("squeezestart",K),s.removeEventListener("squeezeend",K),s.removeEventListener("end",H),s.removeEventListener("inputsourceschange",et);for(let Y=0;Y<R.length;Y++){let pt=E[Y];pt!==null&&(E[Y]=null,R[Y].disconnect(pt))}P=null,W=null,f.reset();for(let Y in p)delete p[Y];if(t.setRenderTarget(T),m=null,u=null,d=null,s=null,w=null,Lt.stop(),n.isPresenting=!1,t.setPixelRatio(b),t.setSize(x.width,x.height,!1),k!==null){let Y=k.camera;Y.fov=k.fov,Y.zoom=k.zoom,Y.updateProjectionMatrix(),k=null}n.dispatchEvent({type:"sessionend"})}this.setFramebufferScaleFactor=function(Y){r=Y,n.isPresenting===!0&&Et("WebXRManager: Cannot change framebuffer scale while presenting.")},this.setReferenceSpaceType=function(Y){o=Y,n.isPresenting===!0&&Et("WebXRManager: Cannot change reference space type while presenting.")},this.getReferenceSpace=function(){return c||a},this.setReferenceSpace=function(Y){c=Y},this.getBaseLayer=function(){return u!==null?u:m},this.getBinding=function(){return d===null&&_&&(d=new XRWebGLBinding(s,e)),d},this.getFrame=function(){return g},this.getSession=function(){return s},this.setSession=async function(Y){if(s=Y,s!==null){if(T=t.getRenderTarget(),s.addEventListener("select",K),s.addEventListener("selectstart",K),s.addEventListener("selectend",K),s.addEventListener("squeeze",K),s.addEventListener("squeezestart",K),s.addEventListener("squeezeend",K),s.addEventListener("end",H),s.addEventListener("inputsourceschange",et),S.xrCompatible!==!0&&await e.makeXRCompatible(),b=t.getPixelRatio(),t.getSize(x),_&&"createProjectionLayer"in XRWebGLBinding.prototype){let xt=null,Tt=null,mt=null;S.depth&&(mt=S.stencil?e.DEPTH24_STENCIL8:e.DEPTH_COMPONENT24,xt=S.stencil?Qi:Zi,Tt=S.stencil?ts:_i);let Ut={colorFormat:e.RGBA8,depthFormat:mt,scaleFactor:r};d=this.getBinding(),u=d.createProjectionLayer(Ut),s.updateRenderState({layers:[u]}),t.setPixelRatio(1),t.setSize(u.textureWidth,u.textureHeight,!1),w=new ti(u.textureWidth,u.textureHeight,{format:vi,type:ii,depthTexture:new Ji(u.textureWidth,u.textureHeight,Tt,void 0,void 0,void 0,void 0,void 0,void 0,xt),stencilBuffer:S.stencil,colorSpace:t.outputColorSpace,samples:S.antialias?4:0,resolveDepthBuffer:u.ignoreDepthValues===!1,resolveStencilBuffer:u.ignoreDepthValues===!1,storeMultisampledDepthBuffer:u.ignoreDepthValues===!1,storeMultisampledStencilBuffer:u.ignoreDepthValues===!1})}else{let xt={antialias:S.antialias,alpha:!0,depth:S.depth,stencil:S.stencil,framebufferScaleFactor:r};m=new XRWebGLLayer(s,e,xt),s.updateRenderState({baseLayer:m}),t.setPixelRatio(1),t.setSize(m.framebufferWidth,m.framebufferHeight,!1),w=new ti(m.framebufferWidth,m.framebufferHeight,{format:vi,type:ii,colorSpace:t.outputColorSpace,stencilBuffer:S.stencil,resolveDepthBuffer:m.ignoreDepthValues===!1,resolveStencilBuffer:m.ignoreDepthValues===!1,storeMultisampledDepthBuffer:m.ignoreDepthValues===!1,storeMultisampledStencilBuffer:m.ignoreDepthValues===!1})}w.isXRRenderTarget=!0,this.setFoveation(l),c=null,a=await s.requestReferenceSpace(o),Lt.setContext(s),Lt.start(),n.isPresenting=!0,n.dispatchEvent({type:"sessionstart"})}},this.getEnvironmentBlendMode=function(){if(s!==null)return s.environmentBlendMode},this.getDepthTexture=function(){return f.getDepthTexture()};function et(Y){for(let pt=0;pt<Y.removed.length;pt++){let xt=Y.removed[pt],Tt=E.indexOf(xt);Tt>=0&&(E[Tt]=null,R[Tt].disconnect(xt))}for(let pt=0;pt<Y.added.length;pt++){let xt=Y.added[pt],Tt=E.indexOf(xt);if(Tt===-1){for(let Ut=0;Ut<R.length;Ut++)if(Ut>=E.length){E.push(xt),Tt=Ut;break}else if(E[Ut]===null){E[Ut]=xt,Tt=Ut;break}if(Tt===-1)break}let mt=R[Tt];mt&&mt.connect(xt)}}function G(Y,pt){pt===null?Y.matrixWorld.copy(Y.matrix):Y.matrixWorld.multiplyMatrices(pt.matrixWorld,Y.matrix),Y.matrixWorldInverse.copy(Y.matrixWorld).invert()}this.updateCamera=function(Y){if(s===null)return;let pt=Y.near,xt=Y.far;f.texture!==null&&(f.depthNear>0&&(pt=f.depthNear),f.depthFar>0&&(xt=f.depthFar)),q.near=D.near=I.near=pt,q.far=D.far=I.far=xt,(P!==q.near||W!==q.far)&&(s.updateRenderState({depthNear:q.near,depthFar:q.far}),P=q.near,W=q.far),q.layers.mask=Y.layers.mask|6,I.layers.mask=q.layers.mask&-5,D.layers.mask=q.layers.mask&-3;let Tt=Y.parent,mt=q.cameras;G(q,Tt);for(let Ut=0;Ut<mt.length;Ut++)G(mt[Ut],Tt);q.projectionMatrix.copy(I.projectionMatrix),q.projectionMatrixInverse.copy(I.projectionMatrixInverse),k===null&&Y.isPerspectiveCamera&&(k={camera:Y,fov:Y.fov,zoom:Y.zoom}),j(Y,q,Tt)};function j(Y,pt,xt){xt===null?Y.matrix.copy(pt.matrixWorld):(Y.matrix.copy(xt.matrixWorld),Y.matrix.invert(),Y.matrix.multiply(pt.matrixWorld)),Y.matrix.decompose(Y.position,Y.quaternion,Y.scale),Y.updateMatrixWorld(!0),Y.projectionMatrix.copy(pt.projectionMatrix),Y.projectionMatrixInverse.copy(pt.projectionMatrixInverse),Y.isPerspectiveCamera&&(Y.fov=Ps*2*Math.atan(1/Y.projectionMatrix.elements[5]),Y.zoom=1)}this.getCamera=function(){return q},this.getFoveation=function(){if(!(u===null&&m===null))return l},this.setFoveation=function(Y){l=Y,u!==null&&(u.fixedFoveation=Y),m!==null&&m.fixedFoveation!==void 0&&(m.fixedFoveation=Y)},this.hasDepthSensing=function(){return f.texture!==null},this.getDepthSensingMesh=function(){return f.getMesh(q)},this.getCameraTexture=function(Y){return p[Y]};let Q=null;function St(Y,pt){if(h=pt.getViewerPose(c||a),g=pt,h!==null){let xt=h.views;m!==null&&(t.setRenderTargetFramebuffer(w,m.framebuffer),t.setRenderTarget(w));let Tt=!1;xt.length!==q.cameras.length&&(q.cameras.length=0,Tt=!0);for(let Rt=0;Rt<xt.length;Rt++){let Jt=xt[Rt],ee=null;if(m!==null)ee=m.getViewport(Jt);else{let Ie=d.getViewSubImage(u,Jt);ee=Ie.viewport,Rt===0&&(t.setRenderTargetTextures(w,Ie.colorTexture,Ie.depthStencilTexture),t.setRenderTarget(w))}let Vt=z[Rt];Vt===void 0&&(Vt=new He,Vt.layers.enable(Rt),Vt.viewport=new ue,z[Rt]=Vt),Vt.matrix.fromArray(Jt.transform.matrix),Vt.matrix.decompose(Vt.position,Vt.quaternion,Vt.scale),Vt.projectionMatrix.fromArray(Jt.projectionMatrix),Vt.projectionMatrixInverse.copy(Vt.projectionMatrix).invert(),Vt.viewport.set(ee.x,ee.y,ee.width,ee.height),Rt===0&&(q.matrix.copy(Vt.matrix),q.matrix.decompose(q.position,q.quaternion,q.scale)),Tt===!0&&q.cameras.push(Vt)}let mt=s.enabledFeatures;if(mt&&mt.includes("depth-sensing")&&s.depthUsage=="gpu-optimized"&&_){d=n.getBinding();let Rt=d.getDepthInformation(xt[0]);Rt&&Rt.isValid&&Rt.texture&&f.init(Rt,s.renderState)}if(mt&&mt.includes("camera-access")&&_){t.state.unbindTexture(),d=n.getBinding();for(let Rt=0;Rt<xt.length;Rt++){let Jt=xt[Rt].camera;if(Jt){let ee=p[Jt];ee||(ee=new Or,p[Jt]=ee);let Vt=d.getCameraImage(Jt);ee.sourceTexture=Vt}}}}for(let xt=0;xt<R.length;xt++){let Tt=E[xt],mt=R[xt];Tt!==null&&mt!==void 0&&mt.update(Tt,pt,c||a)}Q&&Q(Y,pt),pt.detectedPlanes&&n.dispatchEvent({type:"planesdetected",data:pt}),g=null}let Lt=new Fm;Lt.setAnimationLoop(St),this.setAnimationLoop=function(Y){Q=Y},this.dispose=function(){}}},Qb=new se,$m=new Pt;$m.set(-1,0,0,0,1,0,0,0,1);function tw(i,t){function e(f,p){f.matrixAutoUpdate===!0&&f.updateMatrix(),p.value.copy(f.matrix)}function n(f,p){p.color.getRGB(f.fogColor.value,au(i)),p.isFog?(f.fogNear.value=p.near,f.fogFar.value=p.far):p.isFogExp2&&(f.fogDensity.value=p.density)}function s(f,p,S,T,w){p.isNodeMaterial?p.uniformsNeedUpdate=!1:p.isMeshBasicMaterial?r(f,p):p.isMeshLambertMaterial?(r(f,p),p.envMap&&(f.envMapIntensity.value=p.envMapIntensity)):p.isMeshToonMaterial?(r(f,p),d(f,p)):p.isMeshPhongMaterial?(r(f,p),h(f,p),p.envMap&&(f.envMapIntensity.value=p.envMapIntensity)):p.isMeshStandardMaterial?(r(f,p),u(f,p),p.isMeshPhysicalMaterial&&m(f,p,w)):p.isMeshMatcapMaterial?(r(f,p),g(f,p)):p.isMeshDepthMaterial?r(f,p):p.isMeshDistanceMaterial?(r(f,p),_(f,p)):p.isMeshNormalMaterial?r(f,p):p.isLineBasicMaterial?(a(f,p),p.isLineDashedMaterial&&o(f,p)):p.isPointsMaterial?l(f,p,S,T):p.isSpriteMaterial?c(f,p):p.isShadowMaterial?(f.color.value.copy(p.color),f.opacity.value=p.opacity):p.isShaderMaterial&&(p.uniformsNeedUpdate=!1)}function r(f,p){f.opacity.value=p.opacity,p.color&&f.diffuse.value.copy(p.color),p.emissive&&f.emissive.value.copy(p.emissive).multiplyScalar(p.emissiveIntensity),p.map&&(f.map.value=p.map,e(p.map,f.mapTransform)),p.alphaMap&&(f.alphaMap.value=p.alphaMap,e(p.alphaMap,f.alphaMapTransform)),p.bumpMap&&(f.bumpMap.value=p.bumpMap,e(p.bumpMap,f.bumpMapTransform),f.bumpScale.value=p.bumpScale,p.side===Ge&&(f.bumpScale.value*=-1)),p.normalMap&&(f.normalMap.value=p.normalMap,e(p.normalMap,f.normalMapTransform),f.normalScale.value.copy(p.normalScale),p.side===Ge&&f.normalScale.value.negate()),p.displacementMap&&(f.displacementMap.value=p.displacementMap,e(p.displacementMap,f.displacementMapTransform),f.displacementScale.value=p.displacementScale,f.displacementBias.value=p.displacementBias),p.emissiveMap&&(f.emissiveMap.value=p.emissiveMap,e(p.emissiveMap,f.emissiveMapTransform)),p.specularMap&&(f.specularMap.value=p.specularMap,e(p.specularMap,f.specularMapTransform)),p.alphaTest>0&&(f.alphaTest.value=p.alphaTest);let S=t.get(p),T=S.envMap,w=S.envMapRotation;T&&(f.envMap.value=T,f.envMapRotation.value.setFromMatrix4(Qb.makeRotationFromEuler(w)).transpose(),T.isCubeTexture&&T.isRenderTargetTexture===!1&&f.envMapRotation.value.premultiply($m),f.reflectivity.value=p.reflectivity,f.ior.value=p.ior,f.refractionRatio.value=p.refractionRatio),p.lightMap&&(f.lightMap.value=p.lightMap,f.lightMapIntensity.value=p.lightMapIntensity,e(p.lightMap,f.lightMapTransform)),p.aoMap&&(f.aoMap.value=p.aoMap,f.aoMapIntensity.value=p.aoMapIntensity,e(p.aoMap,f.aoMapTransform))}function a(f,p){f.diffuse.value.copy(p.color),f.opacity.value=p.opacity,p.map&&(f.map.value=p.map,e(p.map,f.mapTransform))}function o(f,p){f.dashSize.value=p.dashSize,f.totalSize.value=p.dashSize+p.gapSize,f.scale.value=p.scale}function l(f,p,S,T){f.diffuse.value.copy(p.color),f.opacity.value=p.opacity,f.size.value=p.size*S,f.scale.value=T*.5,p.map&&(f.map.value=p.map,e(p.map,f.uvTransform)),p.alphaMap&&(f.alphaMap.value=p.alphaMap,e(p.alphaMap,f.alphaMapTransform)),p.alphaTest>0&&(f.alphaTest.value=p.alphaTest)}function c(f,p){f.diffuse.value.copy(p.color),f.opacity.value=p.opacity,f.rotation.value=p.rotation,p.map&&(f.map.value=p.map,e(p.map,f.mapTransform)),p.alphaMap&&(f.alphaMap.value=p.alphaMap,e(p.alphaMap,f.alphaMapTransform)),p.alphaTest>0&&(f.alphaTest.value=p.alphaTest)}function h(f,p){f.specular.value.copy(p.specular),f.shininess.value=Math.max(p.shininess,1e-4)}function d(f,p){p.gradientMap&&(f.gradientMap.value=p.gradientMap)}function u(f,p){f.metalness.value=p.metalness,p.metalnessMap&&(f.metalnessMap.value=p.metalnessMap,e(p.metalnessMap,f.metalnessMapTransform)),f.roughness.value=p.roughness,p.roughnessMap&&(f.roughnessMap.value=p.roughnessMap,e(p.roughnessMap,f.roughnessMapTransform)),p.envMap&&(f.envMapIntensity.value=p.envMapIntensity)}function m(f,p,S){f.ior.value=p.ior,p.diffuseRoughness>0&&(f.diffuseRoughness.value=p.diffuseRoughness,p.diffuseRoughnessMap&&(f.diffuseRoughnessMap.value=p.diffuseRoughnessMap,e(p.diffuseRoughnessMap,f.diffuseRoughnessMapTransform))),p.sheen>0&&(f.sheenColor.value.copy(p.sheenColor).multiplyScalar(p.sheen),f.sheenRoughness.value=p.sheenRoughness,p.sheenColorMap&&(f.sheenColorMap.value=p.sheenColorMap,e(p.sheenColorMap,f.sheenColorMapTransform)),p.sheenRoughnessMap&&(f.sheenRoughnessMap.value=p.sheenRoughnessMap,e(p.sheenRoughnessMap,f.sheenRoughnessMapTransform))),p.clearcoat>0&&(f.clearcoat.value=p.clearcoat,f.clearcoatRoughness.value=p.clearcoatRoughness,p.clearcoatMap&&(f.clearcoatMap.value=p.clearcoatMap,e(p.clearcoatMap,f.clearcoatMapTransform)),p.clearcoatRoughnessMap&&(f.clearcoatRoughnessMap.value=p.clearcoatRoughnessMap,e(p.clearcoatRoughnessMap,f.clearcoatRoughnessMapTransform)),p.clearcoatNormalMap&&(f.clearcoatNormalMap.value=p.clearcoatNormalMap,e(p.clearcoatNormalMap,f.clearcoatNormalMapTransform),f.clearcoatNormalScale.value.copy(p.clearcoatNormalScale),p.side===Ge&&f.clearcoatNormalScale.value.negate())),p.dispersion>0&&(f.dispersion.value=p.dispersion),p.retroreflectivity>0&&(f.retroreflectivity.value=p.retroreflectivity),p.iridescence>0&&(f.iridescence.value=p.iridescence,f.iridescenceIOR.value=p.iridescenceIOR,f.iridescenceThicknessMinimum.value=p.iridescenceThicknessMinimum,f.iridescenceThicknessMaximum.value=p.iridescenceThicknessMaximum,p.iridescenceMap&&(f.iridescenceMap.value=p.iridescenceMap,e(p.iridescenceMap,f.iridescenceMapTransform)),p.iridescenceThicknessMap&&(f.iridescenceThicknessMap.value=p.iridescenceThicknessMap,e(p.iridescenceThicknessMap,f.iridescenceThicknessMapTransform))),p.transmission>0&&(f.transmission.value=p.transmission,f.transmissionSamplerMap.value=S.texture,f.transmissionSamplerSize.value.set(S.width,S.height),p.transmissionMap&&(f.transmissionMap.value=p.transmissionMap,e(p.transmissionMap,f.transmissionMapTransform)),f.thickness.value=p.thickness,p.thicknessMap&&(f.thicknessMap.value=p.thicknessMap,e(p.thicknessMap,f.thicknessMapTransform)),f.attenuationDistance.value=p.attenuationDistance,f.attenuationColor.value.copy(p.attenuationColor)),p.anisotropy>0&&(f.anisotropyVector.value.set(p.anisotropy*Math.cos(p.anisotropyRotation),p.anisotropy*Math.sin(p.anisotropyRotation)),p.anisotropyMap&&(f.anisotropyMap.value=p.anisotropyMap,e(p.anisotropyMap,f.anisotropyMapTransform))),f.specularIntensity.value=p.specularIntensity,f.specularColor.value.copy(p.specularColor),p.specularColorMap&&(f.specularColorMap.value=p.specularColorMap,e(p.specularColorMap,f.specularColorMapTransform)),p.specularIntensityMap&&(f.specularIntensityMap.value=p.specularIntensityMap,e(p.specularIntensityMap,f.specularIntensityMapTransform))}function g(f,p){p.matcap&&(f.matcap.value=p.matcap)}function _(f,p){let S=t.get(p).light;f.referencePosition.value.setFromMatrixPosition(S.matrixWorld),f.nearDistance.value=S.shadow.camera.near,f.farDistance.value=S.shadow.camera.far}return{refreshFogUniforms:n,refreshMaterialUniforms:s}}function ew(i,t,e,n){let s={},r={};function a(S,T){let w=T.program;n.uniformBlockBinding(S,w,s[S.id])}function o(S,T){let w=s[S.id];w===void 0&&(g(S),w=l(S),s[S.id]=w,S.addEventListener("dispose",f));let R=T.program;n.updateUBOMapping(S,R);let E=t.render.frame;r[S.id]!==E&&(c(S),r[S.id]=E)}function l(S){let T=i.createBuffer(),w=S.__size,R=S.usage;return i.bindBuffer(i.UNIFORM_BUFFER,T),i.bufferData(i.UNIFORM_BUFFER,w,R),i.bindBuffer(i.UNIFORM_BUFFER,null),T}function c(S){let T=s[S.id],w=S.uniforms,R=S.__cache;i.bindBuffer(i.UNIFORM_BUFFER,T);for(let E=0,x=w.length;E<x;E++){let b=w[E];if(Array.isArray(b))for(let k=0,I=b.length;k<I;k++)h(b[k],E,k,R);else h(b,E,0,R)}i.bindBuffer(i.UNIFORM_BUFFER,null)}function h(S,T,w,R){if(u(S,T,w,R)===!0){let E=S.__offset,x=S.value;if(Array.isArray(x)){let b=0;for(let k=0;k<x.length;k++){let I=x[k],D=_(I,!0);d(I,S.__data,b),b+=D.storage/Float32Array.BYTES_PER_ELEMENT}}else d(x,S.__data,0);i.bufferSubData(i.UNIFORM_BUFFER,E,S.__data)}}function d(S,T,w){typeof S=="number"||typeof S=="boolean"?T[w]=S:S.isMatrix3?(T[w]=S.elements[0],T[w+1]=S.elements[1],T[w+2]=S.elements[2],T[w+3]=0,T[w+4]=S.elements[3],T[w+5]=S.elements[4],T[w+6]=S.elements[5],T[w+7]=0,T[w+8]=S.elements[6],T[w+9]=S.elements[7],T[w+10]=S.elements[8],T[w+11]=0):ArrayBuffer.isView(S)?T.set(S.subarray(0,T.length-w),w):S.toArray(T,w)}function u(S,T,w,R){let E=S.value,x=T+"_"+w;if(Array.isArray(E)){R[x]===void 0&&(R[x]=[]);let b=R[x],k=!1;for(let I=0;I<E.length;I++)m(E[I],b,I)===!0&&(k=!0);return k}return m(E,R,x)}function m(S,T,w){if(T[w]===void 0)return typeof S=="number"||typeof S=="boolean"?T[w]=S:ArrayBuffer.isView(S)?T[w]=S.slice():T[w]=S.clone(),!0;{let R=T[w];if(typeof S=="number"||typeof S=="boolean"){if(R!==S)return T[w]=S,!0}else{if(ArrayBuffer.isView(S))return!0;if(R.equals(S)===!1)return R.copy(S),!0}}return!1}function g(S){let T=S.uniforms,w=0,R=16;for(let x=0,b=T.length;x<b;x++){let k=Array.isArray(T[x])?T[x]:[T[x]];for(let I=0,D=k.length;I<D;I++){let z=k[I],q=Array.isArray(z.value)?z.value:[z.value],P=Array.isArray(T[x])||Array.isArray(z.value),W=w;for(let H=0,et=q.length;H<et;H++){let G=q[H],j=_(G,P),Q=w%R,St=Q%j.boundary,Lt=Q+St;w+=St,Lt!==0&&R-Lt<j.storage&&(w+=R-Lt),H===0&&(W=w),w+=j.storage}let K=z.type==="int"?Int32Array:z.type==="uint"?Uint32Array:Float32Array;z.__data=new K((w-W)/Float32Array.BYTES_PER_ELEMENT),z.__offset=W}}let E=w%R;return E>0&&(w+=R-E),S.__size=w,S.__cache={},this}function _(S,T){let w={boundary:0,storage:0};return typeof S=="number"||typeof S=="boolean"?(w.boundary=4,w.storage=4):S.isVector2?(w.boundary=8,w.storage=8):S.isVector3||S.isColor?(w.boundary=16,w.storage=12):S.isVector4?(w.boundary=16,w.storage=16):S.isMatrix3?(w.boundary=16,w.storage=48):S.isMatrix4?(w.boundary=16,w.storage=64):S.isTexture?Et("WebGLRenderer: Texture samplers can not be part of an uniforms group."):ArrayBuffer.isView(S)?(w.boundary=16,w.storage=S.byteLength):Et("WebGLRenderer: Unsupported uniform value type.",S),T===!0&&(w.boundary=16,w.storage=Math.ceil(w.storage/16)*16),w}function f(S){let T=S.target;T.removeEventListener("dispose",f),i.deleteBuffer(s[T.id]),delete s[T.id],delete r[T.id]}function p(){for(let S in s)i.deleteBuffer(s[S]);s={},r={}}return{bind:a,update:o,dispose:p}}var iw=new Uint16Array([12469,15057,12620,14925,13266,14620,13807,14376,14323,13990,14545,13625,14713,13328,14840,12882,14931,12528,14996,12233,15039,11829,15066,11525,15080,11295,15085,10976,15082,10705,15073,10495,13880,14564,13898,14542,13977,14430,14158,14124,14393,13732,14556,13410,14702,12996,14814,12596,14891,12291,14937,11834,14957,11489,14958,11194,14943,10803,14921,10506,14893,10278,14858,9960,14484,14039,14487,14025,14499,13941,14524,13740,14574,13468,14654,13106,14743,12678,14818,12344,14867,11893,14889,11509,14893,11180,14881,10751,14852,10428,14812,10128,14765,9754,14712,9466,14764,13480,14764,13475,14766,13440,14766,13347,14769,13070,14786,12713,14816,12387,14844,11957,14860,11549,14868,11215,14855,10751,14825,10403,14782,10044,14729,9651,14666,9352,14599,9029,14967,12835,14966,12831,14963,12804,14954,12723,14936,12564,14917,12347,14900,11958,14886,11569,14878,11247,14859,10765,14828,10401,14784,10011,14727,9600,14660,9289,14586,8893,14508,8533,15111,12234,15110,12234,15104,12216,15092,12156,15067,12010,15028,11776,14981,11500,14942,11205,14902,10752,14861,10393,14812,9991,14752,9570,14682,9252,14603,8808,14519,8445,14431,8145,15209,11449,15208,11451,15202,11451,15190,11438,15163,11384,15117,11274,15055,10979,14994,10648,14932,10343,14871,9936,14803,9532,14729,9218,14645,8742,14556,8381,14461,8020,14365,7603,15273,10603,15272,10607,15267,10619,15256,10631,15231,10614,15182,10535,15118,10389,15042,10167,14963,9787,14883,9447,14800,9115,14710,8665,14615,8318,14514,7911,14411,7507,14279,7198,15314,9675,15313,9683,15309,9712,15298,9759,15277,9797,15229,9773,15166,9668,15084,9487,14995,9274,14898,8910,14800,8539,14697,8234,14590,7790,14479,7409,14367,7067,14178,6621,15337,8619,15337,8631,15333,8677,15325,8769,15305,8871,15264,8940,15202,8909,15119,8775,15022,8565,14916,8328,14804,8009,14688,7614,14569,7287,14448,6888,14321,6483,14088,6171,15350,7402,15350,7419,15347,7480,15340,7613,15322,7804,15287,7973,15229,8057,15148,8012,15046,7846,14933,7611,14810,7357,14682,7069,14552,6656,14421,6316,14251,5948,14007,5528,15356,5942,15356,5977,15353,6119,15348,6294,15332,6551,15302,6824,15249,7044,15171,7122,15070,7050,14949,6861,14818,6611,14679,6349,14538,6067,14398,5651,14189,5311,13935,4958,15359,4123,15359,4153,15356,4296,15353,4646,15338,5160,15311,5508,15263,5829,15188,6042,15088,6094,14966,6001,14826,5796,14678,5543,14527,5287,14377,4985,14133,4586,13869,4257,15360,1563,15360,1642,15358,2076,15354,2636,15341,3350,15317,4019,15273,4429,15203,4732,15105,4911,14981,4932,14836,4818,14679,4621,14517,4386,14359,4156,14083,3795,13808,3437,15360,122,15360,137,15358,285,15355,636,15344,1274,15322,2177,15281,2765,15215,3223,15120,3451,14995,3569,14846,3567,14681,3466,14511,3305,14344,3121,14037,2800,13753,2467,15360,0,15360,1,15359,21,15355,89,15346,253,15325,479,15287,796,15225,1148,15133,1492,15008,1749,14856,1882,14685,1886,14506,1783,14324,1608,13996,1398,13702,1183]),Oi=null;function nw(){return Oi===null&&(Oi=new Po(iw,16,16,wn,yi),Oi.name="DFG_LUT",Oi.minFilter=Ve,Oi.magFilter=Ve,Oi.wrapS=Ri,Oi.wrapT=Ri,Oi.generateMipmaps=!1,Oi.needsUpdate=!0),Oi}var Fl=class{constructor(t={}){let{canvas:e=am(),context:n=null,depth:s=!0,stencil:r=!1,alpha:a=!1,antialias:o=!1,premultipliedAlpha:l=!0,preserveDrawingBuffer:c=!1,powerPreference:h="default",failIfMajorPerformanceCaveat:d=!1,reversedDepthBuffer:u=!1,outputBufferType:m=ii}=t;this.isWebGLRenderer=!0;let g;if(n!==null){if(typeof WebGLRenderingContext<"u"&&n instanceof WebGLRenderingContext)throw new Error("THREE.WebGLRenderer: WebGL 1 is not supported since r163.");g=n.getContextAttributes().alpha}else g=a;let _=m,f=new Set([nl,il,el]),p=new Set([ii,_i,Vs,ts,Qo,tl]),S=new Uint32Array(4),T=new Int32Array(4),w={textures:[],min:[],max:[],resolution:[]},R=null,E=null,x=[],b=[],k=null;this.domElement=e,this.debug={checkShaderErrors:!0,diagnostics:{keywords:!1},onShaderError:null},this.autoClear=!0,this.autoClearColor=!0,this.autoClearDepth=!0,this.autoClearStencil=!0,this.sortObjects=!0,this.clippingPlanes=[],this.localClippingEnabled=!1,this.toneMapping=Ni,this.toneMappingExposure=1,this.transmissionResolutionScale=1;let I=this,D=!1,z=null,q=null,P=null,W=null;this._outputColorSpace=Je;let K=0,H=0,et=null,G=-1,j=null,Q=new ue,St=new ue,Lt=null,Y=new Ht(0),pt=0,xt=e.width,Tt=e.height,mt=1,Ut=null,ge=null,Rt=new ue(0,0,xt,Tt),Jt=new ue(0,0,xt,Tt),ee=!1,Vt=new Zn,Ie=new Io,ye=!1,We=!1,le=new se,Si=new N,Ee=new ue,ni={background:null,fog:null,environment:null,overrideMaterial:null,isScene:!0},si=!1;function ri(){return et===null?mt:1}let L=n;function ai(v,C){return e.getContext(v,C)}let ae,oe,ut,ve,At,It,M,y,U,tt,J,st,ct,X,$,at,A,Z,V,ot,nt,rt,bt;try{let v={alpha:!0,depth:s,stencil:r,antialias:o,premultipliedAlpha:l,preserveDrawingBuffer:c,powerPreference:h,failIfMajorPerformanceCaveat:d};if("setAttribute"in e&&e.setAttribute("data-engine",`three.js r${"187"}`),e.addEventListener("webglcontextlost",wt,!1),e.addEventListener("webglcontextrestored",Ft,!1),e.addEventListener("webglcontextcreationerror",dt,!1),L===null){let C="webgl2";if(L=ai(C,v),L===null)throw ai(C)?new Error("THREE.WebGLRenderer: Error creating WebGL context with your selected attributes."):new Error("THREE.WebGLRenderer: Error creating WebGL context.")}kt()}catch(v){throw e.removeEventListener("webglcontextlost",wt,!1),e.removeEventListener("webglcontextrestored",Ft,!1),e.removeEventListener("webglcontextcreationerror",dt,!1),Ct("WebGLRenderer: "+v.message),v}function kt(){ae=new pM(L),ae.init(),nt=new Kb(L,ae),oe=new nM(L,ae,t,nt),ut=new Yb(L,ae),oe.reversedDepthBuffer&&u&&ut.buffers.depth.setReversed(!0),q=L.createFramebuffer(),P=L.createFramebuffer(),W=L.createFramebuffer(),ve=new _M(L),At=new Nb,It=new Zb(L,ae,ut,At,oe,nt,ve),M=new fM(I),y=new yy(L),rt=new eM(L,y),U=new mM(L,y,ve,rt),tt=new yM(L,U,y,rt,ve),Z=new xM(L,oe,It),$=new sM(At),J=new Db(I,M,ae,oe,rt,$),st=new tw(I,At),ct=new Ub,X=new Vb(ae),A=new tM(I,M,ut,tt,g,l),at=new $b(I,tt,oe),bt=new ew(L,ve,oe,ut),V=new iM(L,ae,ve),ot=new gM(L,ae,ve),ve.programs=J.programs,I.capabilities=oe,I.extensions=ae,I.properties=At,I.renderLists=ct,I.shadowMap=at,I.state=ut,I.info=ve}_!==ii&&(k=new SM(_,e.width,e.height,o,s,r));let it=new yu(I,L);this.xr=it,this.getContext=function(){return L},this.getContextAttributes=function(){return L.getContextAttributes()},this.forceContextLoss=function(){let v=ae.get("WEBGL_lose_context");v&&v.loseContext()},this.forceContextRestore=function(){let v=ae.get("WEBGL_lose_context");v&&v.restoreContext()},this.getPixelRatio=function(){return mt},this.setPixelRatio=function(v){v!==void 0&&(mt=v,this.setSize(xt,Tt,!1))},this.getSize=function(v){return v.set(xt,Tt)},this.setSize=function(v,C,B=!0){if(it.isPresenting){Et("WebGLRenderer: Can't change size while VR device is presenting.");return}xt=v,Tt=C,e.width=Math.floor(v*mt),e.height=Math.floor(C*mt),B===!0&&(e.style.width=v+"px",e.style.height=C+"px"),k!==null&&k.setSize(e.width,e.height),this.setViewport(0,0,v,C)},this.getDrawingBufferSize=function(v){return v.set(xt*mt,Tt*mt).floor()},this.setDrawingBufferSize=function(v,C,B){xt=v,Tt=C,mt=B,e.width=Math.floor(v*B),e.height=Math.floor(C*B),this.setViewport(0,0,v,C)},this.setEffects=function(v){if(_===ii){Ct("WebGLRenderer: setEffects() requires outputBufferType set to HalfFloatType or FloatType.");return}if(v){for(let C=0;C<v.length;C++)if(v[C].isOutputPass===!0){Et("WebGLRenderer: OutputPass is not needed in setEffects(). Tone mapping and color space conversion are applied automatically.");break}}k.setEffects(v||[])},this.getCurrentViewport=function(v){return v.copy(Q)},this.getViewport=function(v){return v.copy(Rt)},this.setViewport=function(v,C,B,O){v.isVector4?Rt.set(v.x,v.y,v.z,v.w):Rt.set(v,C,B,O),ut.viewport(Q.copy(Rt).multiplyScalar(ri()).round())},this.getScissor=function(v){return v.copy(Jt)},this.setScissor=function(v,C,B,O){v.isVector4?Jt.set(v.x,v.y,v.z,v.w):Jt.set(v,C,B,O),ut.scissor(St.copy(Jt).multiplyScalar(ri()).round())},this.getScissorTest=function(){return ee},this.setScissorTest=function(v){ut.setScissorTest(ee=v)},this.setOpaqueSort=function(v){Ut=v},this.setTransparentSort=function(v){ge=v},this.getClearColor=function(v){return v.copy(A.getClearColor())},this.setClearColor=function(){A.setClearColor(...arguments)},this.getClearAlpha=function(){return A.getClearAlpha()},this.setClearAlpha=function(){A.setClearAlpha(...arguments)},this.clear=function(v=!0,C=!0,B=!0){let O=0;if(v){let F=!1;if(et!==null){let ht=et.texture.format;F=f.has(ht)}if(F){let ht=et.texture.type,_t=p.has(ht),lt=A.getClearColor(),gt=A.getClearAlpha(),Mt=lt.r,Dt=lt.g,Gt=lt.b;_t?(S[0]=Mt,S[1]=Dt,S[2]=Gt,S[3]=gt,L.clearBufferuiv(L.COLOR,0,S)):(T[0]=Mt,T[1]=Dt,T[2]=Gt,T[3]=gt,L.clearBufferiv(L.COLOR,0,T))}else O|=L.COLOR_BUFFER_BIT}C&&(O|=L.DEPTH_BUFFER_BIT,this.state.buffers.depth.setMask(!0)),B&&(O|=L.STENCIL_BUFFER_BIT,this.state.buffers.stencil.setMask(4294967295)),O!==0&&L.clear(O)},this.clearColor=function(){this.clear(!0,!1,!1)},this.clearDepth=function(){this.clear(!1,!0,!1)},this.clearStencil=function(){this.clear(!1,!1,!0)},this.setNodesHandler=function(v){v.setRenderer(this),z=v},this.dispose=function(){e.removeEventListener("webglcontextlost",wt,!1),e.removeEventListener("webglcontextrestored",Ft,!1),e.removeEventListener("webglcontextcreationerror",dt,!1),A.dispose(),ct.dispose(),X.dispose(),It.dispose(),At.dispose(),M.dispose(),tt.dispose(),U.dispose(),rt.dispose(),bt.dispose(),J.dispose(),it.dispose(),it.removeEventListener("sessionstart",wu),it.removeEventListener("sessionend",Eu),En.stop()};function wt(v){v.preventDefault(),eu("WebGLRenderer: Context Lost."),D=!0}function Ft(){eu("WebGLRenderer: Context Restored."),D=!1;let v=ve.autoReset,C=at.enabled,B=at.autoUpdate,O=at.needsUpdate,F=at.type;kt(),ve.autoReset=v,at.enabled=C,at.autoUpdate=B,at.needsUpdate=O,at.type=F}function dt(v){Ct("WebGLRenderer: A WebGL context could not be created. Reason: ",v.statusMessage)}function jt(v){let C=v.target;C.removeEventListener("dispose",jt),Te(C)}function Te(v){en(v),At.remove(v)}function en(v){let C=At.get(v).programs;C!==void 0&&(C.forEach(function(B){J.releaseProgram(B)}),v.isShaderMaterial&&J.releaseShaderCache(v))}this.renderBufferDirect=function(v,C,B,O,F,ht){C===null&&(C=ni);let _t=F.isMesh&&F.matrixWorld.determinantAffine()<0,lt=ag(v,C,B,O,F);ut.setMaterial(O,_t);let gt=B.index,Mt=1;if(O.wireframe===!0){if(gt=U.getWireframeAttribute(B),gt===void 0)return;Mt=2}let Dt=B.drawRange,Gt=B.attributes.position,yt=Dt.start*Mt,Wt=(Dt.start+Dt.count)*Mt;ht!==null&&(yt=Math.max(yt,ht.start*Mt),Wt=Math.min(Wt,(ht.start+ht.count)*Mt)),gt!==null?(yt=Math.max(yt,0),Wt=Math.min(Wt,gt.count)):Gt!=null&&(yt=Math.max(yt,0),Wt=Math.min(Wt,Gt.count));let _e=Wt-yt;if(_e<0||_e===1/0)return;rt.setup(F,O,lt,B,gt);let ne,ie=V;if(gt!==null&&(ne=y.get(gt),ie=ot,ie.setIndex(ne)),F.isMesh)O.wireframe===!0?(ut.setLineWidth(O.wireframeLinewidth*ri()),ie.setMode(L.LINES)):ie.setMode(L.TRIANGLES);else if(F.isLine){let De=O.linewidth;De===void 0&&(De=1),ut.setLineWidth(De*ri()),F.isLineSegments?ie.setMode(L.LINES):F.isLineLoop?ie.setMode(L.LINE_LOOP):ie.setMode(L.LINE_STRIP)}else F.isPoints?ie.setMode(L.POINTS):F.isSprite&&ie.setMode(L.TRIANGLES);if(F.isBatchedMesh)if(ae.get("WEBGL_multi_draw"))ie.renderMultiDraw(F._multiDrawStarts,F._multiDrawCounts,F._multiDrawCount);else{let De=F._multiDrawStarts,vt=F._multiDrawCounts,Be=F._multiDrawCount,Yt=gt?y.get(gt).bytesPerElement:1,Tn=At.get(O).currentProgram.getUniforms();for(let Ne=0;Ne<Be;Ne++)Tn.setValue(L,"_gl_DrawID",Ne),ie.render(De[Ne]/Yt,vt[Ne])}else if(F.isInstancedMesh)ie.renderInstances(yt,_e,F.count);else if(B.isInstancedBufferGeometry){let De=B._maxInstanceCount!==void 0?B._maxInstanceCount:1/0,vt=Math.min(B.instanceCount,De);ie.renderInstances(yt,_e,vt)}else ie.render(yt,_e)};function bu(v,C,B,O){z!==null&&v.isNodeMaterial&&z.setObject(O,v),ye===!0&&$.setState(v,B,!1),v.transparent===!0&&v.side===Di&&v.forceSinglePass===!1?(v.side=Ge,v.needsUpdate=!0,qs(v,C,O),v.side=bn,v.needsUpdate=!0,qs(v,C,O),v.side=Di):qs(v,C,O)}this.compile=function(v,C,B=null){B===null&&(B=v),z!==null&&z.renderStart(v,C,B),E=X.get(B),E.init(C),b.push(E),B.traverseVisible(function(F){F.isLight&&F.layers.test(C.layers)&&(E.pushLight(F),F.castShadow&&E.pushShadow(F))}),v!==B&&v.traverseVisible(function(F){F.isLight&&F.layers.test(C.layers)&&(E.pushLight(F),F.castShadow&&E.pushShadow(F))}),E.setupLights(),z!==null&&z.updateLights(E.state.lightsArray),We=this.localClippingEnabled,ye=$.init(this.clippingPlanes,We),ye===!0&&$.setGlobalState(this.clippingPlanes,C),z!==null&&at.render(E.state.shadowsArray,B,C);let O=new Set;return v.traverse(function(F){if(!(F.isMesh||F.isPoints||F.isLine||F.isSprite))return;let ht=F.material;if(ht)if(Array.isArray(ht))for(let _t=0;_t<ht.length;_t++){let lt=ht[_t];bu(lt,B,C,F),O.add(lt)}else bu(ht,B,C,F),O.add(ht)}),E=b.pop(),z!==null&&z.renderEnd(),O},this.compileAsync=function(v,C,B=null){let O=this.compile(v,C,B);return new Promise(F=>{function ht(){if(O.forEach(function(_t){let gt=At.get(_t).currentProgram;(gt===void 0||gt.isReady())&&O.delete(_t)}),O.size===0){F(v);return}setTimeout(ht,10)}ae.get("KHR_parallel_shader_compile")!==null?ht():setTimeout(ht,10)})};let Xl=null;function sg(v){Xl&&Xl(v)}function wu(){En.stop()}function Eu(){En.start()}let En=new Fm;En.setAnimationLoop(sg),typeof self<"u"&&En.setContext(self),this.setAnimationLoop=function(v){Xl=v,it.setAnimationLoop(v),v===null?En.stop():En.start()},it.addEventListener("sessionstart",wu),it.addEventListener("sessionend",Eu),this.render=function(v,C){if(C!==void 0&&C.isCamera!==!0){Ct("WebGLRenderer.render: camera is not an instance of THREE.Camera.");return}if(D===!0)return;z!==null&&z.renderStart(v,C);let B=it.enabled===!0&&it.isPresenting===!0,O=k!==null&&(et===null||B)&&k.begin(I,et);if(v.matrixWorldAutoUpdate===!0&&v.updateMatrixWorld(),C.parent===null&&C.matrixWorldAutoUpdate===!0&&C.updateMatrixWorld(),it.enabled===!0&&it.isPresenting===!0&&(k===null||k.isCompositing()===!1)&&(it.cameraAutoUpdate===!0&&it.updateCamera(C),C=it.getCamera()),v.isScene===!0&&v.onBeforeRender(I,v,C,et),E=X.get(v,b.length),E.init(C),E.state.textureUnits=It.getTextureUnits(),b.push(E),le.multiplyMatrices(C.projectionMatrix,C.matrixWorldInverse),C.isArrayCamera?Ie.setFromArrayCamera(C):Vt.setFromProjectionMatrix(le,ci,C.reversedDepth),We=this.localClippingEnabled,ye=$.init(this.clippingPlanes,We),R=ct.get(v,x.length),R.init(),x.push(R),this.info.render.frame++,it.enabled===!0&&it.isPresenting===!0){let _t=I.xr.getDepthSensingMesh();_t!==null&&ql(_t,C,-1/0,I.sortObjects)}ql(v,C,0,I.sortObjects),R.finish(),z!==null&&z.updateLights(E.state.lightsArray),I.sortObjects===!0&&R.sort(Ut,ge),si=it.enabled===!1||it.isPresenting===!1||it.hasDepthSensing()===!1,si&&A.addToRenderList(R,v),this.info.autoReset===!0&&this.info.reset(),ye===!0&&$.beginShadows();let F=E.state.shadowsArray;if(at.render(F,v,C),ye===!0&&$.endShadows(),(O&&k.hasRenderPass())===!1){let _t=R.opaque,lt=R.transmissive;if(E.setupLights(),C.isArrayCamera){let gt=C.cameras;if(lt.length>0)for(let Mt=0,Dt=gt.length;Mt<Dt;Mt++){let Gt=gt[Mt];Au(_t,lt,v,Gt)}si&&A.render(v);for(let Mt=0,Dt=gt.length;Mt<Dt;Mt++){let Gt=gt[Mt];Tu(R,v,Gt,Gt.viewport)}}else lt.length>0&&Au(_t,lt,v,C),si&&A.render(v),Tu(R,v,C)}et!==null&&H===0&&(It.updateMultisampleRenderTarget(et),It.updateRenderTargetMipmap(et)),O&&k.end(I),v.isScene===!0&&v.onAfterRender(I,v,C),rt.resetDefaultState(),G=-1,j=null,b.pop(),b.length>0?(E=b[b.length-1],It.setTextureUnits(E.state.textureUnits),ye===!0&&$.setGlobalState(I.clippingPlanes,E.state.camera)):E=null,x.pop(),x.length>0?R=x[x.length-1]:R=null,z!==null&&z.renderEnd()};function ql(v,C,B,O){if(v.visible===!1)return;if(v.layers.test(C.layers)){if(v.isGroup)B=v.renderOrder;else if(v.isLOD)v.autoUpdate===!0&&v.update(C);else if(v.isLight)E.pushLight(v),v.castShadow&&E.pushShadow(v);else if(v.isSprite){let _t=C.isArrayCamera?Ie:Vt;if(!v.frustumCulled||v.intersectsFrustum(_t)){O&&Ee.setFromMatrixPosition(v.matrixWorld).applyMatrix4(le);let lt=tt.update(v),gt=v.material;gt.visible&&R.push(v,lt,gt,B,Ee.z,null,C)}}else if(v.isMesh||v.isLine||v.isPoints){let _t=C.isArrayCamera?Ie:Vt;if(!v.frustumCulled||v.intersectsFrustum(_t)){let lt=tt.update(v),gt=v.material;if(O&&(v.boundingSphere!==void 0?(v.boundingSphere===null&&v.computeBoundingSphere(),Ee.copy(v.boundingSphere.center)):(lt.boundingSphere===null&&lt.computeBoundingSphere(),Ee.copy(lt.boundingSphere.center)),Ee.applyMatrix4(v.matrixWorld).applyMatrix4(le)),Array.isArray(gt)){let Mt=lt.groups;for(let Dt=0,Gt=Mt.length;Dt<Gt;Dt++){let yt=Mt[Dt],Wt=gt[yt.materialIndex];Wt&&Wt.visible&&R.push(v,lt,Wt,B,Ee.z,yt,C)}}else gt.visible&&R.push(v,lt,gt,B,Ee.z,null,C)}}}let ht=v.children;for(let _t=0,lt=ht.length;_t<lt;_t++)ql(ht[_t],C,B,O)}function Tu(v,C,B,O){let{opaque:F,transmissive:ht,transparent:_t}=v;E.setupLightsView(B),ye===!0&&$.setGlobalState(I.clippingPlanes,B),O&&ut.viewport(Q.copy(O)),F.length>0&&Qr(F,C,B),ht.length>0&&Qr(ht,C,B),_t.length>0&&Qr(_t,C,B),ut.buffers.depth.setTest(!0),ut.buffers.depth.setMask(!0),ut.buffers.color.setMask(!0),ut.setPolygonOffset(!1)}function Au(v,C,B,O){if((B.isScene===!0?B.overrideMaterial:null)!==null)return;if(E.state.transmissionRenderTarget[O.id]===void 0){let yt=ae.has("EXT_color_buffer_half_float")||ae.has("EXT_color_buffer_float");E.state.transmissionRenderTarget[O.id]=new ti(1,1,{generateMipmaps:!0,type:yt?yi:ii,minFilter:ji,samples:Math.max(4,oe.samples),stencilBuffer:r,resolveDepthBuffer:!1,resolveStencilBuffer:!1,storeMultisampledDepthBuffer:!1,storeMultisampledStencilBuffer:!1,colorSpace:Xt.workingColorSpace})}let ht=E.state.transmissionRenderTarget[O.id],_t=O.viewport||Q;ht.setSize(_t.z*I.transmissionResolutionScale,_t.w*I.transmissionResolutionScale);let lt=I.getRenderTarget(),gt=I.getActiveCubeFace(),Mt=I.getActiveMipmapLevel();I.setRenderTarget(ht),I.getClearColor(Y),pt=I.getClearAlpha(),pt<1&&I.setClearColor(16777215,.5),I.clear(),si&&A.render(B);let Dt=I.toneMapping;I.toneMapping=Ni;let Gt=O.viewport;if(O.viewport!==void 0&&(O.viewport=void 0),E.setupLightsView(O),ye===!0&&$.setGlobalState(I.clippingPlanes,O),Qr(v,B,O),It.updateMultisampleRenderTarget(ht),It.updateRenderTargetMipmap(ht),ae.has("WEBGL_multisampled_render_to_texture")===!1){let yt=!1;for(let Wt=0,_e=C.length;Wt<_e;Wt++){let ne=C[Wt],{object:ie,geometry:De,material:vt,group:Be}=ne;if(vt.side===Di&&ie.layers.test(O.layers)){let Yt=vt.side;vt.side=Ge,vt.needsUpdate=!0,Ru(ie,B,O,De,vt,Be),vt.side=Yt,vt.needsUpdate=!0,yt=!0}}yt===!0&&(It.updateMultisampleRenderTarget(ht),It.updateRenderTargetMipmap(ht))}I.setRenderTarget(lt,gt,Mt),I.setClearColor(Y,pt),Gt!==void 0&&(O.viewport=Gt),I.toneMapping=Dt}function Qr(v,C,B){let O=C.isScene===!0?C.overrideMaterial:null;for(let F=0,ht=v.length;F<ht;F++){let _t=v[F],{object:lt,geometry:gt,group:Mt}=_t,Dt=_t.material;Dt.allowOverride===!0&&O!==null&&(Dt=O),lt.layers.test(B.layers)&&Ru(lt,C,B,gt,Dt,Mt)}}function Ru(v,C,B,O,F,ht){z!==null&&F.isNodeMaterial&&z.setObject(v,F),v.onBeforeRender(I,C,B,O,F,ht),v.modelViewMatrix.multiplyMatrices(B.matrixWorldInverse,v.matrixWorld),v.normalMatrix.getNormalMatrix(v.modelViewMatrix),F.onBeforeRender(I,C,B,O,v,ht),F.transparent===!0&&F.side===Di&&F.forceSinglePass===!1?(F.side=Ge,F.needsUpdate=!0,I.renderBufferDirect(B,C,O,F,v,ht),F.side=bn,F.needsUpdate=!0,I.renderBufferDirect(B,C,O,F,v,ht),F.side=Di):I.renderBufferDirect(B,C,O,F,v,ht),v.onAfterRender(I,C,B,O,F,ht)}function Cu(v){let C=0;for(let B of v)B.texture!==null&&C++;return C}function qs(v,C,B){C.isScene!==!0&&(C=ni);let O=At.get(v),F=E.state.lights,ht=E.state.shadowsArray,_t=F.state.version,lt=J.getParameters(v,F.state,ht,C,B,E.state.lightProbeGridArray),gt=J.getProgramCacheKey(lt),Mt=O.programs;O.environment=v.isMeshStandardMaterial||v.isMeshLambertMaterial||v.isMeshPhongMaterial?C.environment:null,O.fog=C.fog;let Dt=v.isMeshStandardMaterial||v.isMeshLambertMaterial&&!v.envMap||v.isMeshPhongMaterial&&!v.envMap;O.envMap=M.get(v.envMap||O.environment,Dt),O.envMapRotation=O.environment!==null&&v.envMap===null?C.environmentRotation:v.envMapRotation,Mt===void 0&&(v.addEventListener("dispose",jt),Mt=new Map,O.programs=Mt,O.programVariants=new Map);let Gt=Mt.get(gt);if(Gt!==void 0){if(O.currentProgram===Gt&&O.lightsStateVersion===_t)return Iu(v,lt),Gt}else lt.uniforms=J.getUniforms(v),z!==null&&v.isNodeMaterial&&z.build(v,B,lt),v.onBeforeCompile(lt,I),Gt=J.acquireProgram(lt,gt),Mt.set(gt,Gt),O.uniforms=lt.uniforms;let yt=O.uniforms;return(!v.isShaderMaterial&&!v.isRawShaderMaterial||v.clipping===!0)&&(yt.clippingPlanes=$.uniform),Iu(v,lt),O.needsLights=lg(v),O.lightsStateVersion=_t,O.needsLights&&(yt.ambientLightColor.value=F.state.ambient,yt.lightProbe.value=F.state.probe,yt.sunLights.value=F.state.sun,yt.sunLightShadows.value=F.state.sunShadow,yt.directionalLights.value=F.state.directional,yt.directionalLightShadows.value=F.state.directionalShadow,yt.spotLights.value=F.state.spot,yt.spotLightShadows.value=F.state.spotShadow,yt.rectAreaLights.value=F.state.rectArea,yt.ltc_1.value=F.state.rectAreaLTC1,yt.ltc_2.value=F.state.rectAreaLTC2,yt.pointLights.value=F.state.point,yt.pointLightShadows.value=F.state.pointShadow,yt.hemisphereLights.value=F.state.hemi,yt.sunShadowMatrix.value=F.state.sunShadowMatrix,yt.sunShadowCascade.value=F.state.sunShadowCascade,yt.directionalShadowMatrix.value=F.state.directionalShadowMatrix,yt.spotLightMatrix.value=F.state.spotLightMatrix,yt.spotLightMap.value=F.state.spotLightMap,yt.pointShadowMatrix.value=F.state.pointShadowMatrix),O.numLightProbeGrids=Cu(E.state.lightProbeGridArray),O.currentProgram=Gt,O.uniformsList=null,Gt}function rg(v,C,B,O,F){let ht=At.get(v),_t=ht.currentProgram.id+","+O+","+F,lt=ht.programVariants.get(_t);return lt===void 0?(lt=qs(v,C,B),ht.programVariants.set(_t,lt)):(ht.currentProgram=lt,ht.uniformsList=null,ht.outputColorSpace=O,ht.toneMapping=F),lt}function Pu(v){if(v.uniformsList===null){let C=v.currentProgram.getUniforms();v.uniformsList=Ws.seqWithValue(C.seq,v.uniforms)}return v.uniformsList}function Iu(v,C){let B=At.get(v);B.outputColorSpace=C.outputColorSpace,B.batching=C.batching,B.batchingColor=C.batchingColor,B.instancing=C.instancing,B.instancingColor=C.instancingColor,B.instancingMorph=C.instancingMorph,B.skinning=C.skinning,B.morphTargets=C.morphTargets,B.morphNormals=C.morphNormals,B.morphColors=C.morphColors,B.morphTargetsCount=C.morphTargetsCount,B.numClippingPlanes=C.numClippingPlanes,B.numIntersection=C.numClipIntersection,B.vertexAlphas=C.vertexAlphas,B.vertexTangents=C.vertexTangents,B.toneMapping=C.toneMapping}function ag(v,C,B,O,F){C.isScene!==!0&&(C=ni),It.resetTextureUnits();let ht=C.fog,_t=O.isMeshStandardMaterial||O.isMeshLambertMaterial||O.isMeshPhongMaterial?C.environment:null,lt=et===null?I.outputColorSpace:et.isXRRenderTarget===!0?et.texture.colorSpace:Xt.workingColorSpace,gt=O.isMeshStandardMaterial||O.isMeshLambertMaterial&&!O.envMap||O.isMeshPhongMaterial&&!O.envMap,Mt=M.get(O.envMap||_t,gt),Dt=O.vertexColors===!0&&!!B.attributes.color&&B.attributes.color.itemSize===4,Gt=!!B.attributes.tangent&&(!!O.normalMap||O.anisotropy>0),yt=!!B.morphAttributes.position,Wt=!!B.morphAttributes.normal,_e=!!B.morphAttributes.color,ne=Ni;O.toneMapped&&(et===null||et.isXRRenderTarget===!0)&&(ne=I.toneMapping);let ie=B.morphAttributes.position||B.morphAttributes.normal||B.morphAttributes.color,De=ie!==void 0?ie.length:0,vt=At.get(O),Be=E.state.lights;if(ye===!0&&(We===!0||v!==j)){let ce=v===j&&O.id===G;$.setState(O,v,ce)}let Yt=!1,Tn=!1;O.version===vt.__version?vt.needsLights&&vt.lightsStateVersion!==Be.state.version||F.isBatchedMesh&&vt.batching===!1||!F.isBatchedMesh&&vt.batching===!0||F.isBatchedMesh&&vt.batchingColor===!0&&F._colorsTexture===null||F.isBatchedMesh&&vt.batchingColor===!1&&F._colorsTexture!==null||F.isInstancedMesh&&vt.instancing===!1||!F.isInstancedMesh&&vt.instancing===!0||F.isSkinnedMesh&&vt.skinning===!1||!F.isSkinnedMesh&&vt.skinning===!0||F.isInstancedMesh&&vt.instancingColor===!0&&F.instanceColor===null||F.isInstancedMesh&&vt.instancingColor===!1&&F.instanceColor!==null||F.isInstancedMesh&&vt.instancingMorph===!0&&F.morphTexture===null||F.isInstancedMesh&&vt.instancingMorph===!1&&F.morphTexture!==null||vt.envMap!==Mt||O.fog===!0&&vt.fog!==ht||vt.numClippingPlanes!==void 0&&(vt.numClippingPlanes!==$.numPlanes||vt.numIntersection!==$.numIntersection)||vt.vertexAlphas!==Dt||vt.vertexTangents!==Gt||vt.morphTargets!==yt||vt.morphNormals!==Wt||vt.morphColors!==_e||vt.morphTargetsCount!==De||vt.numLightProbeGrids!==Cu(E.state.lightProbeGridArray)?Yt=!0:(vt.outputColorSpace!==lt||vt.toneMapping!==ne)&&(Tn=!0):(Yt=!0,vt.__version=O.version);let Ne=vt.currentProgram;(Yt===!0||Tn===!0)&&(Ne=Tn===!0?rg(O,C,F,lt,ne):qs(O,C,F),z&&O.isNodeMaterial&&z.onUpdateProgram(O,Ne,vt));let ta=!1,nn=!1,An=!1,qt=Ne.getUniforms(),Le=vt.uniforms;if(ut.useProgram(Ne.program)&&(ta=!0,nn=!0,An=!0),O.id!==G&&(G=O.id,nn=!0),ta||j!==v){ut.buffers.depth.getReversed()&&v.reversedDepth!==!0&&(v._reversedDepth=!0,v.updateProjectionMatrix()),qt.setValue(L,"projectionMatrix",v.projectionMatrix),qt.setValue(L,"viewMatrix",v.matrixWorldInverse);let Ae=qt.map.cameraPosition;Ae!==void 0&&Ae.setValue(L,Si.setFromMatrixPosition(v.matrixWorld)),oe.logarithmicDepthBuffer&&qt.setValue(L,"logDepthBufFC",2/(Math.log(v.far+1)/Math.LN2)),(O.isMeshPhongMaterial||O.isMeshToonMaterial||O.isMeshLambertMaterial||O.isMeshBasicMaterial||O.isMeshStandardMaterial||O.isShaderMaterial)&&qt.setValue(L,"isOrthographic",v.isOrthographicCamera===!0),j!==v&&(j=v,nn=!0,An=!0)}if(vt.needsLights&&(Be.state.sunShadowMap.length>0&&qt.setValue(L,"sunShadowMap",Be.state.sunShadowMap,It),Be.state.directionalShadowMap.length>0&&qt.setValue(L,"directionalShadowMap",Be.state.directionalShadowMap,It),Be.state.spotShadowMap.length>0&&qt.setValue(L,"spotShadowMap",Be.state.spotShadowMap,It),Be.state.pointShadowMap.length>0&&qt.setValue(L,"pointShadowMap",Be.state.pointShadowMap,It)),F.isSkinnedMesh){qt.setOptional(L,F,"bindMatrix"),qt.setOptional(L,F,"bindMatrixInverse");let ce=F.skeleton;ce&&(ce.boneTexture===null&&ce.computeBoneTexture(),qt.setValue(L,"boneTexture",ce.boneTexture,It))}F.isBatchedMesh&&(qt.setOptional(L,F,"batchingTexture"),qt.setValue(L,"batchingTexture",F._matricesTexture,It),qt.setOptional(L,F,"batchingIdTexture"),qt.setValue(L,"batchingIdTexture",F._indirectTexture,It),qt.setOptional(L,F,"batchingColorTexture"),F._colorsTexture!==null&&qt.setValue(L,"batchingColorTexture",F._colorsTexture,It));let hi=B.morphAttributes;if((hi.position!==void 0||hi.normal!==void 0||hi.color!==void 0)&&Z.update(F,B,Ne),(nn||vt.receiveShadow!==F.receiveShadow)&&(vt.receiveShadow=F.receiveShadow,qt.setValue(L,"receiveShadow",F.receiveShadow)),(O.isMeshStandardMaterial||O.isMeshLambertMaterial||O.isMeshPhongMaterial)&&O.envMap===null&&C.environment!==null&&(Le.envMapIntensity.value=C.environmentIntensity),Le.dfgLUT!==void 0&&(Le.dfgLUT.value=nw()),nn){if(qt.setValue(L,"toneMappingExposure",I.toneMappingExposure),vt.needsLights&&og(Le,An),ht&&O.fog===!0&&st.refreshFogUniforms(Le,ht),st.refreshMaterialUniforms(Le,O,mt,Tt,E.state.transmissionRenderTarget[v.id]),vt.needsLights&&vt.numLightProbeGrids>0){let ce=w,Ae=0;for(let ki of E.state.lightProbeGridArray)ki.texture!==null&&(ce.textures[Ae]=ki.texture,ce.min[Ae]=ki.boundingBox.min,ce.max[Ae]=ki.boundingBox.max,ce.resolution[Ae]=ki.resolution,Ae++);for(let ki in ce)ce[ki].length=Ae;Le.probesSH.value=ce.textures,Le.probesMin.value=ce.min,Le.probesMax.value=ce.max,Le.probesResolution.value=ce.resolution}Ws.upload(L,Pu(vt),Le,It)}if(O.isShaderMaterial&&O.uniformsNeedUpdate===!0&&(Ws.upload(L,Pu(vt),Le,It),O.uniformsNeedUpdate=!1),O.isSpriteMaterial&&qt.setValue(L,"center",F.center),qt.setValue(L,"modelViewMatrix",F.modelViewMatrix),qt.setValue(L,"normalMatrix",F.normalMatrix),qt.setValue(L,"modelMatrix",F.matrixWorld),O.uniformsGroups!==void 0){let ce=O.uniformsGroups;for(let Ae=0,ki=ce.length;Ae<ki;Ae++){let Du=ce[Ae];bt.update(Du,Ne),bt.bind(Du,Ne)}}return Ne}function og(v,C){v.ambientLightColor.needsUpdate=C,v.lightProbe.needsUpdate=C,v.sunLights.needsUpdate=C,v.sunLightShadows.needsUpdate=C,v.directionalLights.needsUpdate=C,v.directionalLightShadows.needsUpdate=C,v.pointLights.needsUpdate=C,v.pointLightShadows.needsUpdate=C,v.spotLights.needsUpdate=C,v.spotLightShadows.needsUpdate=C,v.rectAreaLights.needsUpdate=C,v.hemisphereLights.needsUpdate=C}function lg(v){return v.isMeshLambertMaterial||v.isMeshToonMaterial||v.isMeshPhongMaterial||v.isMeshStandardMaterial||v.isShadowMaterial||v.isShaderMaterial&&v.lights===!0}this.getActiveCubeFace=function(){return K},this.getActiveMipmapLevel=function(){return H},this.getRenderTarget=function(){return et},this.setRenderTargetTextures=function(v,C,B){let O=At.get(v);O.__autoAllocateDepthBuffer=v.resolveDepthBuffer===!1,O.__autoAllocateDepthBuffer===!1&&(O.__useRenderToTexture=!1),At.get(v.texture).__webglTexture=C,At.get(v.depthTexture).__webglTexture=O.__autoAllocateDepthBuffer?void 0:B,O.__hasExternalTextures=!0},this.setRenderTargetFramebuffer=function(v,C){let B=At.get(v);B.__webglFramebuffer=C,B.__useDefaultFramebuffer=C===void 0},this.setRenderTarget=function(v,C=0,B=0){et=v,K=C,H=B;let O=null,F=!1,ht=!1;if(v){let lt=At.get(v);if(lt.__useDefaultFramebuffer!==void 0){ut.bindFramebuffer(L.FRAMEBUFFER,lt.__webglFramebuffer),Q.copy(v.viewport),St.copy(v.scissor),Lt=v.scissorTest,ut.viewport(Q),ut.scissor(St),ut.setScissorTest(Lt),G=-1;return}else if(lt.__webglFramebuffer===void 0)It.setupRenderTarget(v);else if(lt.__hasExternalTextures)It.rebindTextures(v,At.get(v.texture).__webglTexture,At.get(v.depthTexture).__webglTexture);else if(v.depthBuffer){let Dt=v.depthTexture;if(lt.__boundDepthTexture!==Dt){if(Dt!==null&&At.has(Dt)&&(v.width!==Dt.image.width||v.height!==Dt.image.height))throw new Error("THREE.WebGLRenderer: Attached DepthTexture is initialized to the incorrect size.");It.setupDepthRenderbuffer(v)}}let gt=v.texture;(gt.isData3DTexture||gt.isDataArrayTexture||gt.isCompressedArrayTexture)&&(ht=!0);let Mt=At.get(v).__webglFramebuffer;v.isWebGLCubeRenderTarget?(Array.isArray(Mt[C])?O=Mt[C][B]:O=Mt[C],F=!0):v.samples>0&&It.useMultisampledRTT(v)===!1?O=At.get(v).__webglMultisampledFramebuffer:Array.isArray(Mt)?O=Mt[B]:O=Mt,Q.copy(v.viewport),St.copy(v.scissor),Lt=v.scissorTest}else Q.copy(Rt).multiplyScalar(mt).floor(),St.copy(Jt).multiplyScalar(mt).floor(),Lt=ee;if(B!==0&&(O=q),ut.bindFramebuffer(L.FRAMEBUFFER,O)&&ut.drawBuffers(v,O),ut.viewport(Q),ut.scissor(St),ut.setScissorTest(Lt),F){let lt=At.get(v.texture);L.framebufferTexture2D(L.FRAMEBUFFER,L.COLOR_ATTACHMENT0,L.TEXTURE_CUBE_MAP_POSITIVE_X+C,lt.__webglTexture,B)}else if(ht){let lt=C;for(let gt=0;gt<v.textures.length;gt++){let Mt=At.get(v.textures[gt]);L.framebufferTextureLayer(L.FRAMEBUFFER,L.COLOR_ATTACHMENT0+gt,Mt.__webglTexture,B,lt)}}else if(v!==null&&B!==0){let lt=At.get(v.texture);L.framebufferTexture2D(L.FRAMEBUFFER,L.COLOR_ATTACHMENT0,L.TEXTURE_2D,lt.__webglTexture,B)}G=-1};function Lu(v){let C=At.get(v);return(C.__readFormat!==v.format||C.__readType!==v.type)&&(C.__readFormat=v.format,C.__readType=v.type,C.__formatReadable=oe.textureFormatReadable(v.format),C.__typeReadable=oe.textureTypeReadable(v.type)),C}this.readRenderTargetPixels=function(v,C,B,O,F,ht,_t,lt=0){if(!(v&&v.isWebGLRenderTarget)){Ct("WebGLRenderer.readRenderTargetPixels: renderTarget is not THREE.WebGLRenderTarget.");return}let gt=At.get(v).__webglFramebuffer;if(v.isWebGLCubeRenderTarget&&_t!==void 0&&(gt=gt[_t],Array.isArray(gt)&&(gt=gt[0])),gt){ut.bindFramebuffer(L.FRAMEBUFFER,gt);try{let Mt=v.textures[lt],Dt=Mt.format,Gt=Mt.type;v.textures.length>1&&L.readBuffer(L.COLOR_ATTACHMENT0+lt);let yt=Lu(Mt);if(yt.__formatReadable===!1){Ct("WebGLRenderer.readRenderTargetPixels: renderTarget is not in RGBA or implementation defined format.");return}if(yt.__typeReadable===!1){Ct("WebGLRenderer.readRenderTargetPixels: renderTarget is not in UnsignedByteType or implementation defined type.");return}C>=0&&C<=v.width-O&&B>=0&&B<=v.height-F&&L.readPixels(C,B,O,F,nt.convert(Dt),nt.convert(Gt),ht)}finally{let Mt=et!==null?At.get(et).__webglFramebuffer:null;ut.bindFramebuffer(L.FRAMEBUFFER,Mt)}}},this.readRenderTargetPixelsAsync=async function(v,C,B,O,F,ht,_t,lt=0){if(!(v&&v.isWebGLRenderTarget))throw new Error("THREE.WebGLRenderer.readRenderTargetPixels: renderTarget is not THREE.WebGLRenderTarget.");let gt=At.get(v).__webglFramebuffer;if(v.isWebGLCubeRenderTarget&&_t!==void 0&&(gt=gt[_t],Array.isArray(gt)&&(gt=gt[0])),gt)if(C>=0&&C<=v.width-O&&B>=0&&B<=v.height-F){ut.bindFramebuffer(L.FRAMEBUFFER,gt);let Mt=v.textures[lt],Dt=Mt.format,Gt=Mt.type;v.textures.length>1&&L.readBuffer(L.COLOR_ATTACHMENT0+lt);let yt=Lu(Mt);if(yt.__formatReadable===!1)throw new Error("THREE.WebGLRenderer.readRenderTargetPixelsAsync: renderTarget is not in RGBA or implementation defined format.");if(yt.__typeReadable===!1)throw new Error("THREE.WebGLRenderer.readRenderTargetPixelsAsync: renderTarget is not in UnsignedByteType or implementation defined type.");let Wt=L.createBuffer();L.bindBuffer(L.PIXEL_PACK_BUFFER,Wt),L.bufferData(L.PIXEL_PACK_BUFFER,ht.byteLength,L.STREAM_READ),L.readPixels(C,B,O,F,nt.convert(Dt),nt.convert(Gt),0),L.bindBuffer(L.PIXEL_PACK_BUFFER,null);let _e=et!==null?At.get(et).__webglFramebuffer:null;ut.bindFramebuffer(L.FRAMEBUFFER,_e);let ne=L.fenceSync(L.SYNC_GPU_COMMANDS_COMPLETE,0);return L.flush(),await lm(L,ne,4),L.bindBuffer(L.PIXEL_PACK_BUFFER,Wt),L.getBufferSubData(L.PIXEL_PACK_BUFFER,0,ht),L.bindBuffer(L.PIXEL_PACK_BUFFER,null),L.deleteBuffer(Wt),L.deleteSync(ne),ht}else throw new Error("THREE.WebGLRenderer.readRenderTargetPixelsAsync: requested read bounds are out of range.")},this.copyFramebufferToTexture=function(v,C=null,B=0){let O=Math.pow(2,-B),F=Math.floor(v.image.width*O),ht=Math.floor(v.image.height*O),_t=C!==null?C.x:0,lt=C!==null?C.y:0;It.setTexture2D(v,0),L.copyTexSubImage2D(L.TEXTURE_2D,B,0,0,_t,lt,F,ht),ut.unbindTexture()},this.copyTextureToTexture=function(v,C,B=null,O=null,F=0,ht=0){let _t,lt,gt,Mt,Dt,Gt,yt,Wt,_e,ne=v.isCompressedTexture?v.mipmaps[ht]:v.image;if(B!==null)_t=B.max.x-B.min.x,lt=B.max.y-B.min.y,gt=B.isBox3?B.max.z-B.min.z:1,Mt=B.min.x,Dt=B.min.y,Gt=B.isBox3?B.min.z:0;else{let qt=Math.pow(2,-F);_t=Math.floor(ne.width*qt),lt=Math.floor(ne.height*qt),v.isDataArrayTexture?gt=ne.depth:v.isData3DTexture?gt=Math.floor(ne.depth*qt):gt=1,Mt=0,Dt=0,Gt=0}O!==null?(yt=O.x,Wt=O.y,_e=O.z):(yt=0,Wt=0,_e=0);let ie=nt.convert(C.format),De=nt.convert(C.type),vt;C.isData3DTexture?(It.setTexture3D(C,0),vt=L.TEXTURE_3D):C.isDataArrayTexture||C.isCompressedArrayTexture?(It.setTexture2DArray(C,0),vt=L.TEXTURE_2D_ARRAY):(It.setTexture2D(C,0),vt=L.TEXTURE_2D),ut.activeTexture(L.TEXTURE0),ut.pixelStorei(L.UNPACK_FLIP_Y_WEBGL,C.flipY),ut.pixelStorei(L.UNPACK_PREMULTIPLY_ALPHA_WEBGL,C.premultiplyAlpha),ut.pixelStorei(L.UNPACK_ALIGNMENT,C.unpackAlignment);let Be=ut.getParameter(L.UNPACK_ROW_LENGTH),Yt=ut.getParameter(L.UNPACK_IMAGE_HEIGHT),Tn=ut.getParameter(L.UNPACK_SKIP_PIXELS),Ne=ut.getParameter(L.UNPACK_SKIP_ROWS),ta=ut.getParameter(L.UNPACK_SKIP_IMAGES);ut.pixelStorei(L.UNPACK_ROW_LENGTH,ne.width),ut.pixelStorei(L.UNPACK_IMAGE_HEIGHT,ne.height),ut.pixelStorei(L.UNPACK_SKIP_PIXELS,Mt),ut.pixelStorei(L.UNPACK_SKIP_ROWS,Dt),ut.pixelStorei(L.UNPACK_SKIP_IMAGES,Gt);let nn=v.isDataArrayTexture||v.isData3DTexture,An=C.isDataArrayTexture||C.isData3DTexture;if(v.isDepthTexture){let qt=At.get(v),Le=At.get(C),hi=At.get(qt.__renderTarget),ce=At.get(Le.__renderTarget);ut.bindFramebuffer(L.READ_FRAMEBUFFER,hi.__webglFramebuffer),ut.bindFramebuffer(L.DRAW_FRAMEBUFFER,ce.__webglFramebuffer);for(let Ae=0;Ae<gt;Ae++)nn&&(L.framebufferTextureLayer(L.READ_FRAMEBUFFER,L.COLOR_ATTACHMENT0,At.get(v).__webglTexture,F,Gt+Ae),L.framebufferTextureLayer(L.DRAW_FRAMEBUFFER,L.COLOR_ATTACHMENT0,At.get(C).__webglTexture,ht,_e+Ae)),L.blitFramebuffer(Mt,Dt,Mt+_t,Dt+lt,yt,Wt,yt+_t,Wt+lt,L.DEPTH_BUFFER_BIT,L.NEAREST);ut.bindFramebuffer(L.READ_FRAMEBUFFER,null),ut.bindFramebuffer(L.DRAW_FRAMEBUFFER,null)}else if(F!==0||v.isRenderTargetTexture||At.has(v)){let qt=At.get(v),Le=At.get(C);ut.bindFramebuffer(L.READ_FRAMEBUFFER,P),ut.bindFramebuffer(L.DRAW_FRAMEBUFFER,W);for(let hi=0;hi<gt;hi++)nn?L.framebufferTextureLayer(L.READ_FRAMEBUFFER,L.COLOR_ATTACHMENT0,qt.__webglTexture,F,Gt+hi):L.framebufferTexture2D(L.READ_FRAMEBUFFER,L.COLOR_ATTACHMENT0,L.TEXTURE_2D,qt.__webglTexture,F),An?L.framebufferTextureLayer(L.DRAW_FRAMEBUFFER,L.COLOR_ATTACHMENT0,Le.__webglTexture,ht,_e+hi):L.framebufferTexture2D(L.DRAW_FRAMEBUFFER,L.COLOR_ATTACHMENT0,L.TEXTURE_2D,Le.__webglTexture,ht),F!==0?L.blitFramebuffer(Mt,Dt,Mt+_t,Dt+lt,yt,Wt,yt+_t,Wt+lt,L.COLOR_BUFFER_BIT,L.NEAREST):An?L.copyTexSubImage3D(vt,ht,yt,Wt,_e+hi,Mt,Dt,_t,lt):L.copyTexSubImage2D(vt,ht,yt,Wt,Mt,Dt,_t,lt);ut.bindFramebuffer(L.READ_FRAMEBUFFER,null),ut.bindFramebuffer(L.DRAW_FRAMEBUFFER,null)}else An?v.isDataTexture||v.isData3DTexture?L.texSubImage3D(vt,ht,yt,Wt,_e,_t,lt,gt,ie,De,ne.data):C.isCompressedArrayTexture?L.compressedTexSubImage3D(vt,ht,yt,Wt,_e,_t,lt,gt,ie,ne.data):L.texSubImage3D(vt,ht,yt,Wt,_e,_t,lt,gt,ie,De,ne):v.isDataTexture?L.texSubImage2D(L.TEXTURE_2D,ht,yt,Wt,_t,lt,ie,De,ne.data):v.isCompressedTexture?L.compressedTexSubImage2D(L.TEXTURE_2D,ht,yt,Wt,ne.width,ne.height,ie,ne.data):L.texSubImage2D(L.TEXTURE_2D,ht,yt,Wt,_t,lt,ie,De,ne);ut.pixelStorei(L.UNPACK_ROW_LENGTH,Be),ut.pixelStorei(L.UNPACK_IMAGE_HEIGHT,Yt),ut.pixelStorei(L.UNPACK_SKIP_PIXELS,Tn),ut.pixelStorei(L.UNPACK_SKIP_ROWS,Ne),ut.pixelStorei(L.UNPACK_SKIP_IMAGES,ta),ht===0&&C.generateMipmaps===!0&&C.mipmapsAutoUpdate===!0&&L.generateMipmap(vt),ut.unbindTexture()},this.initRenderTarget=function(v){At.get(v).__webglFramebuffer===void 0&&It.setupRenderTarget(v)},this.initTexture=function(v){v.isCubeTexture?It.setTextureCube(v,0):v.isData3DTexture?It.setTexture3D(v,0):v.isDataArrayTexture||v.isCompressedArrayTexture?It.setTexture2DArray(v,0):It.setTexture2D(v,0),ut.unbindTexture()},this.resetState=function(){K=0,H=0,et=null,ut.reset(),rt.reset()},typeof __THREE_DEVTOOLS__<"u"&&__THREE_DEVTOOLS__.dispatchEvent(new CustomEvent("observe",{detail:this}))}get coordinateSystem(){return ci}get outputColorSpace(){return this._outputColorSpace}set outputColorSpace(t){this._outputColorSpace=t;let e=this.getContext();e.drawingBufferColorSpace=Xt._getDrawingBufferColorSpace(t),e.unpackColorSpace=Xt._getUnpackColorSpace()}};var Ym={type:"change"},Su={type:"start"},Km={type:"end"},zl=new gn,Zm=new je,rw=Math.cos(70*ru.DEG2RAD),we=new N,Ye=2*Math.PI,Zt={NONE:-1,ROTATE:0,DOLLY:1,PAN:2,TOUCH_ROTATE:3,TOUCH_PAN:4,TOUCH_DOLLY_PAN:5,TOUCH_DOLLY_ROTATE:6},vu=1e-6,Hl=class extends zr{constructor(t,e=null){super(t,e),this.state=Zt.NONE,this.target=new N,this.cursor=new N,this.minDistance=0,this.maxDistance=1/0,this.minZoom=0,this.maxZoom=1/0,this.minTargetRadius=0,this.maxTargetRadius=1/0,this.minPolarAngle=0,this.maxPolarAngle=Math.PI,this.minAzimuthAngle=-1/0,this.maxAzimuthAngle=1/0,this.enableDamping=!1,this.dampingFactor=.05,this.enableZoom=!0,this.zoomSpeed=1,this.enableRotate=!0,this.rotateSpeed=1,this.keyRotateSpeed=1,this.enablePan=!0,this.panSpeed=1,this.screenSpacePanning=!0,this.keyPanSpeed=7,this.zoomToCursor=!1,this.autoRotate=!1,this.autoRotateSpeed=2,this.keys={LEFT:"ArrowLeft",UP:"ArrowUp",RIGHT:"ArrowRight",BOTTOM:"ArrowDown"},this.mouseButtons={LEFT:Sn.ROTATE,MIDDLE:Sn.DOLLY,RIGHT:Sn.PAN},this.touches={ONE:Mn.ROTATE,TWO:Mn.DOLLY_PAN},this.target0=this.target.clone(),this.position0=this.object.position.clone(),this.zoom0=this.object.zoom,this._cursorStyle="auto",this._domElementKeyEvents=null,this._lastPosition=new N,this._lastQuaternion=new Qe,this._lastTargetPosition=new N,this._quat=new Qe().setFromUnitVectors(t.up,new N(0,1,0)),this._quatInverse=this._quat.clone().invert(),this._spherical=new ks,this._sphericalDelta=new ks,this._scale=1,this._panOffset=new N,this._rotateStart=new Ot,this._rotateEnd=new Ot,this._rotateDelta=new Ot,this._panStart=new Ot,this._panEnd=new Ot,this._panDelta=new Ot,this._dollyStart=new Ot,this._dollyEnd=new Ot,this._dollyDelta=new Ot,this._dollyDirection=new N,this._mouse=new Ot,this._performCursorZoom=!1,this._pointers=[],this._pointerPositions={},this._controlActive=!1,this._onPointerMove=ow.bind(this),this._onPointerDown=aw.bind(this),this._onPointerUp=lw.bind(this),this._onContextMenu=mw.bind(this),this._onMouseWheel=uw.bind(this),this._onKeyDown=dw.bind(this),this._onTouchStart=fw.bind(this),this._onTouchMove=pw.bind(this),this._onMouseDown=cw.bind(this),this._onMouseMove=hw.bind(this),this._interceptControlDown=gw.bind(this),this._interceptControlUp=_w.bind(this),this.domElement!==null&&this.connect(this.domElement),this.update()}set cursorStyle(t){this._cursorStyle=t,t==="grab"?this.domElement.style.cursor="grab":this.domElement.style.cursor="auto"}get cursorStyle(){return this._cursorStyle}connect(t){super.connect(t),this.domElement.addEventListener("pointerdown",this._onPointerDown),this.domElement.addEventListener("pointercancel",this._onPointerUp),this.domElement.addEventListener("contextmenu",this._onContextMenu),this.domElement.addEventListener("wheel",this._onMouseWheel,{passive:!1}),this.domElement.ownerDocument.addEventListener("keydown",this._interceptControlDown,{passive:!0,capture:!0}),this.domElement.style.touchAction="none"}disconnect(){this.state=Zt.NONE,this.domElement.removeEventListener("pointerdown",this._onPointerDown),this.domElement.ownerDocument.removeEventListener("pointermove",this._onPointerMove),this.domElement.ownerDocument.removeEventListener("pointerup",this._onPointerUp),this.domElement.removeEventListener("pointercancel",this._onPointerUp),this.domElement.removeEventListener("wheel",this._onMouseWheel),this.domElement.removeEventListener("contextmenu",this._onContextMenu),this.stopListenToKeyEvents(),this.domElement.ownerDocument.removeEventListener("keydown",this._interceptControlDown,{capture:!0}),this.domElement.ownerDocument.removeEventListener("keyup",this._interceptControlUp,{capture:!0}),this._controlActive=!1,this._pointers.length=0,this._pointerPositions={},this.domElement.style.touchAction="",this.domElement.style.cursor="auto"}dispose(){this.disconnect()}getPolarAngle(){return this._spherical.phi}getAzimuthalAngle(){return this._spherical.theta}getDistance(){return this.object.position.distanceTo(this.target)}listenToKeyEvents(t){t.addEventListener("keydown",this._onKeyDown),this._domElementKeyEvents=t}stopListenToKeyEvents(){this._domElementKeyEvents!==null&&(this._domElementKeyEvents.removeEventListener("keydown",this._onKeyDown),this._domElementKeyEvents=null)}saveState(){this.target0.copy(this.target),this.position0.copy(this.object.position),this.zoom0=this.object.zoom}reset(){this.target.copy(this.target0),this.object.position.copy(this.position0),this.object.zoom=this.zoom0,this.object.updateProjectionMatrix(),this.dispatchEvent(Ym),this.update(),this.state=Zt.NONE}pan(t,e){this._pan(t,e),this.update()}dollyIn(t){this._dollyIn(t),this.update()}dollyOut(t){this._dollyOut(t),this.update()}rotateLeft(t){this._rotateLeft(t),this.update()}rotateUp(t){this._rotateUp(t),this.update()}update(t=null){let e=this.object.position;we.copy(e).sub(this.target),we.applyQuaternion(this._quat),this._spherical.setFromVector3(we),this.autoRotate&&this.state===Zt.NONE&&this._rotateLeft(this._getAutoRotationAngle(t)),this.enableDamping?(this._spherical.theta+=this._sphericalDelta.theta*this.dampingFactor,this._spherical.phi+=this._sphericalDelta.phi*this.dampingFactor):(this._spherical.theta+=this._sphericalDelta.theta,this._spherical.phi+=this._sphericalDelta.phi);let n=this.minAzimuthAngle,s=this.maxAzimuthAngle;isFinite(n)&&isFinite(s)&&(n<-Math.PI?n+=Ye:n>Math.PI&&(n-=Ye),s<-Math.PI?s+=Ye:s>Math.PI&&(s-=Ye),n<=s?this._spherical.theta=Math.max(n,Math.min(s,this._spherical.theta)):this._spherical.theta=this._spherical.theta>(n+s)/2?Math.max(n,this._spherical.theta):Math.min(s,this._spherical.theta)),this._spherical.phi=Math.max(this.minPolarAngle,Math.min(this.maxPolarAngle,this._spherical.phi)),this._spherical.makeSafe(),this.enableDamping===!0?this.target.addScaledVector(this._panOffset,this.dampingFactor):this.target.add(this._panOffset),this.target.sub(this.cursor),this.target.clampLength(this.minTargetRadius,this.maxTargetRadius),this.target.add(this.cursor);let r=!1;if(this.zoomToCursor&&this._performCursorZoom||this.object.isOrthographicCamera)this._spherical.radius=this._clampDistance(this._spherical.radius);else{let a=this._spherical.radius;this._spherical.radius=this._clampDistance(this._spherical.radius*this._scale),r=a!=this._spherical.radius}if(we.setFromSpherical(this._spherical),we.applyQuaternion(this._quatInverse),e.copy(this.target).add(we),this.object.lookAt(this.target),this.enableDamping===!0?(this._sphericalDelta.theta*=1-this.dampingFactor,this._sphericalDelta.phi*=1-this.dampingFactor,this._panOffset.multiplyScalar(1-this.dampingFactor)):(this._sphericalDelta.set(0,0,0),this._panOffset.set(0,0,0)),this.zoomToCursor&&this._performCursorZoom){let a=null;if(this.object.isPerspectiveCamera){let o=we.length();a=this._clampDistance(o*this._scale);let l=o-a;this.object.position.addScaledVector(this._dollyDirection,l),this.object.updateMatrixWorld(),r=!!l}else if(this.object.isOrthographicCamera){let o=new N(this._mouse.x,this._mouse.y,0);o.unproject(this.object);let l=this.object.zoom;this.object.zoom=Math.max(this.minZoom,Math.min(this.maxZoom,this.object.zoom/this._scale)),this.object.updateProjectionMatrix(),r=l!==this.object.zoom;let c=new N(this._mouse.x,this._mouse.y,0);c.unproject(this.object),this.object.position.sub(c).add(o),this.object.updateMatrixWorld(),a=we.length()}else console.warn("WARNING: OrbitControls.js encountered an unknown camera type - zoom to cursor disabled."),this.zoomToCursor=!1;a!==null&&(this.screenSpacePanning?this.target.set(0,0,-1).transformDirection(this.object.matrix).multiplyScalar(a).add(this.object.position):(zl.origin.copy(this.object.position),zl.direction.set(0,0,-1).transformDirection(this.object.matrix),Math.abs(this.object.up.dot(zl.direction))<rw?this.object.lookAt(this.target):(Zm.setFromNormalAndCoplanarPoint(this.object.up,this.target),zl.intersectPlane(Zm,this.target))))}else if(this.object.isOrthographicCamera){let a=this.object.zoom;this.object.zoom=Math.max(this.minZoom,Math.min(this.maxZoom,this.object.zoom/this._scale)),a!==this.object.zoom&&(this.object.updateProjectionMatrix(),r=!0)}return this._scale=1,this._performCursorZoom=!1,r||this._lastPosition.distanceToSquared(this.object.position)>vu||8*(1-this._lastQuaternion.dot(this.object.quaternion))>vu||this._lastTargetPosition.distanceToSquared(this.target)>vu?(this.dispatchEvent(Ym),this._lastPosition.copy(this.object.position),this._lastQuaternion.copy(this.object.quaternion),this._lastTargetPosition.copy(this.target),!0):!1}_getAutoRotationAngle(t){return t!==null?Ye/60*this.autoRotateSpeed*t:Ye/60/60*this.autoRotateSpeed}_getZoomScale(t){let e=Math.abs(t*.01);return Math.pow(.95,this.zoomSpeed*e)}_rotateLeft(t){this._sphericalDelta.theta-=t}_rotateUp(t){this._sphericalDelta.phi-=t}_panLeft(t,e){we.setFromMatrixColumn(e,0),we.multiplyScalar(-t),this._panOffset.add(we)}_panUp(t,e){this.screenSpacePanning===!0?we.setFromMatrixColumn(e,1):(we.setFromMatrixColumn(e,0),we.crossVectors(this.object.up,we)),we.multiplyScalar(t),this._panOffset.add(we)}_pan(t,e){let n=this.domElement;if(this.object.isPerspectiveCamera){let s=this.object.position;we.copy(s).sub(this.target);let r=we.length();r*=Math.tan(this.object.fov/2*Math.PI/180),this._panLeft(2*t*r/n.clientHeight,this.object.matrix),this._panUp(2*e*r/n.clientHeight,this.object.matrix)}else this.object.isOrthographicCamera?(this._panLeft(t*(this.object.right-this.object.left)/this.object.zoom/n.clientWidth,this.object.matrix),this._panUp(e*(this.object.top-this.object.bottom)/this.object.zoom/n.clientHeight,this.object.matrix)):(console.warn("WARNING: OrbitControls.js encountered an unknown camera type - pan disabled."),this.enablePan=!1)}_dollyOut(t){this.object.isPerspectiveCamera||this.object.isOrthographicCamera?this._scale/=t:(console.warn("WARNING: OrbitControls.js encountered an unknown camera type - dolly/zoom disabled."),this.enableZoom=!1)}_dollyIn(t){this.object.isPerspectiveCamera||this.object.isOrthographicCamera?this._scale*=t:(console.warn("WARNING: OrbitControls.js encountered an unknown camera type - dolly/zoom disabled."),this.enableZoom=!1)}_updateZoomParameters(t,e){if(!this.zoomToCursor)return;this._performCursorZoom=!0;let n=this.domElement.getBoundingClientRect(),s=t-n.left,r=e-n.top,a=n.width,o=n.height;this._mouse.x=s/a*2-1,this._mouse.y=-(r/o)*2+1,this._dollyDirection.set(this._mouse.x,this._mouse.y,1).unproject(this.object).sub(this.object.position).normalize()}_clampDistance(t){return Math.max(this.minDistance,Math.min(this.maxDistance,t))}_handleMouseDownRotate(t){this._rotateStart.set(t.clientX,t.clientY)}_handleMouseDownDolly(t){this._updateZoomParameters(t.clientX,t.clientY),this._dollyStart.set(t.clientX,t.clientY)}_handleMouseDownPan(t){this._panStart.set(t.clientX,t.clientY)}_handleMouseMoveRotate(t){this._rotateEnd.set(t.clientX,t.clientY),this._rotateDelta.subVectors(this._rotateEnd,this._rotateStart).multiplyScalar(this.rotateSpeed);let e=this.domElement;this._rotateLeft(Ye*this._rotateDelta.x/e.clientHeight),this._rotateUp(Ye*this._rotateDelta.y/e.clientHeight),this._rotateStart.copy(this._rotateEnd),this.update()}_handleMouseMoveDolly(t){this._dollyEnd.set(t.clientX,t.clientY),this._dollyDelta.subVectors(this._dollyEnd,this._dollyStart),this._dollyDelta.y>0?this._dollyOut(this._getZoomScale(this._dollyDelta.y)):this._dollyDelta.y<0&&this._dollyIn(this._getZoomScale(this._dollyDelta.y)),this._dollyStart.copy(this._dollyEnd),this.zoomToCursor&&(this._performCursorZoom=!0,this._dollyDirection.set(this._mouse.x,this._mouse.y,1).unproject(this.object).sub(this.object.position).normalize()),this.update()}_handleMouseMovePan(t){this._panEnd.set(t.clientX,t.clientY),this._panDelta.subVectors(this._panEnd,this._panStart).multiplyScalar(this.panSpeed),this._pan(this._panDelta.x,this._panDelta.y),this._panStart.copy(this._panEnd),this.update()}_handleMouseWheel(t){this._updateZoomParameters(t.clientX,t.clientY),t.deltaY<0?this._dollyIn(this._getZoomScale(t.deltaY)):t.deltaY>0&&this._dollyOut(this._getZoomScale(t.deltaY)),this.update()}_handleKeyDown(t){let e=!1;switch(t.code){case this.keys.UP:t.ctrlKey||t.metaKey||t.shiftKey?this.enableRotate&&this._rotateUp(Ye*this.keyRotateSpeed/this.domElement.clientHeight):this.enablePan&&this._pan(0,this.keyPanSpeed),e=!0;break;case this.keys.BOTTOM:t.ctrlKey||t.metaKey||t.shiftKey?this.enableRotate&&this._rotateUp(-Ye*this.keyRotateSpeed/this.domElement.clientHeight):this.enablePan&&this._pan(0,-this.keyPanSpeed),e=!0;break;case this.keys.LEFT:t.ctrlKey||t.metaKey||t.shiftKey?this.enableRotate&&this._rotateLeft(Ye*this.keyRotateSpeed/this.domElement.clientHeight):this.enablePan&&this._pan(this.keyPanSpeed,0),e=!0;break;case this.keys.RIGHT:t.ctrlKey||t.metaKey||t.shiftKey?this.enableRotate&&this._rotateLeft(-Ye*this.keyRotateSpeed/this.domElement.clientHeight):this.enablePan&&this._pan(-this.keyPanSpeed,0),e=!0;break}e&&(t.preventDefault(),this.update())}_handleTouchStartRotate(t){if(this._pointers.length===1)this._rotateStart.set(t.pageX,t.pageY);else{let e=this._getSecondPointerPosition(t),n=.5*(t.pageX+e.x),s=.5*(t.pageY+e.y);this._rotateStart.set(n,s)}}_handleTouchStartPan(t){if(this._pointers.length===1)this._panStart.set(t.pageX,t.pageY);else{let e=this._getSecondPointerPosition(t),n=.5*(t.pageX+e.x),s=.5*(t.pageY+e.y);this._panStart.set(n,s)}}_handleTouchStartDolly(t){let e=this._getSecondPointerPosition(t),n=t.pageX-e.x,s=t.pageY-e.y,r=Math.sqrt(n*n+s*s);this._dollyStart.set(0,r)}_handleTouchStartDollyPan(t){this.enableZoom&&this._handleTouchStartDolly(t),this.enablePan&&this._handleTouchStartPan(t)}_handleTouchStartDollyRotate(t){this.enableZoom&&this._handleTouchStartDolly(t),this.enableRotate&&this._handleTouchStartRotate(t)}_handleTouchMoveRotate(t){if(this._pointers.length==1)this._rotateEnd.set(t.pageX,t.pageY);else{let n=this._getSecondPointerPosition(t),s=.5*(t.pageX+n.x),r=.5*(t.pageY+n.y);this._rotateEnd.set(s,r)}this._rotateDelta.subVectors(this._rotateEnd,this._rotateStart).multiplyScalar(this.rotateSpeed);let e=this.domElement;this._rotateLeft(Ye*this._rotateDelta.x/e.clientHeight),this._rotateUp(Ye*this._rotateDelta.y/e.clientHeight),this._rotateStart.copy(this._rotateEnd)}_handleTouchMovePan(t){if(this._pointers.length===1)this._panEnd.set(t.pageX,t.pageY);else{let e=this._getSecondPointerPosition(t),n=.5*(t.pageX+e.x),s=.5*(t.pageY+e.y);this._panEnd.set(n,s)}this._panDelta.subVectors(this._panEnd,this._panStart).multiplyScalar(this.panSpeed),this._pan(this._panDelta.x,this._panDelta.y),this._panStart.copy(this._panEnd)}_handleTouchMoveDolly(t){let e=this._getSecondPointerPosition(t),n=t.pageX-e.x,s=t.pageY-e.y,r=Math.sqrt(n*n+s*s);this._dollyEnd.set(0,r),this._dollyDelta.set(0,Math.pow(this._dollyEnd.y/this._dollyStart.y,this.zoomSpeed)),this._dollyOut(this._dollyDelta.y),this._dollyStart.copy(this._dollyEnd);let a=(t.pageX+e.x)*.5,o=(t.pageY+e.y)*.5;this._updateZoomParameters(a,o)}_handleTouchMoveDollyPan(t){this.enableZoom&&this._handleTouchMoveDolly(t),this.enablePan&&this._handleTouchMovePan(t)}_handleTouchMoveDollyRotate(t){this.enableZoom&&this._handleTouchMoveDolly(t),this.enableRotate&&this._handleTouchMoveRotate(t)}_addPointer(t){this._pointers.push(t.pointerId)}_removePointer(t){delete this._pointerPositions[t.pointerId];for(let e=0;e<this._pointers.length;e++)if(this._pointers[e]==t.pointerId){this._pointers.splice(e,1);return}}_isTrackingPointer(t){for(let e=0;e<this._pointers.length;e++)if(this._pointers[e]==t.pointerId)return!0;return!1}_trackPointer(t){let e=this._pointerPositions[t.pointerId];e===void 0&&(e=new Ot,this._pointerPositions[t.pointerId]=e),e.set(t.pageX,t.pageY)}_getSecondPointerPosition(t){let e=t.pointerId===this._pointers[0]?this._pointers[1]:this._pointers[0];return this._pointerPositions[e]}_customWheelEvent(t){let e=t.deltaMode,n={clientX:t.clientX,clientY:t.clientY,deltaY:t.deltaY};switch(e){case 1:n.deltaY*=16;break;case 2:n.deltaY*=100;break}return t.ctrlKey&&!this._controlActive&&(n.deltaY*=10),n}};function aw(i){this.enabled!==!1&&(this._pointers.length===0&&(this.domElement.setPointerCapture(i.pointerId),this.domElement.ownerDocument.addEventListener("pointermove",this._onPointerMove),this.domElement.ownerDocument.addEventListener("pointerup",this._onPointerUp)),!this._isTrackingPointer(i)&&(this._addPointer(i),i.pointerType==="touch"?this._onTouchStart(i):this._onMouseDown(i),this._cursorStyle==="grab"&&(this.domElement.style.cursor="grabbing")))}function ow(i){this.enabled!==!1&&(i.pointerType==="touch"?this._onTouchMove(i):this._onMouseMove(i))}function lw(i){switch(this._removePointer(i),this._pointers.length){case 0:this.domElement.releasePointerCapture(i.pointerId),this.domElement.ownerDocument.removeEventListener("pointermove",this._onPointerMove),this.domElement.ownerDocument.removeEventListener("pointerup",this._onPointerUp),this.dispatchEvent(Km),this.state=Zt.NONE,this._cursorStyle==="grab"&&(this.domElement.style.cursor="grab");break;case 1:let t=this._pointers[0],e=this._pointerPositions[t];this._onTouchStart({pointerId:t,pageX:e.x,pageY:e.y});break}}function cw(i){let t;switch(i.button){case 0:t=this.mouseButtons.LEFT;break;case 1:t=this.mouseButtons.MIDDLE;break;case 2:t=this.mouseButtons.RIGHT;break;default:t=-1}switch(t){case Sn.DOLLY:if(this.enableZoom===!1)return;this._handleMouseDownDolly(i),this.state=Zt.DOLLY;break;case Sn.ROTATE:if(i.ctrlKey||i.metaKey||i.shiftKey){if(this.enablePan===!1)return;this._handleMouseDownPan(i),this.state=Zt.PAN}else{if(this.enableRotate===!1)return;this._handleMouseDownRotate(i),this.state=Zt.ROTATE}break;case Sn.PAN:if(i.ctrlKey||i.metaKey||i.shiftKey){if(this.enableRotate===!1)return;this._handleMouseDownRotate(i),this.state=Zt.ROTATE}else{if(this.enablePan===!1)return;this._handleMouseDownPan(i),this.state=Zt.PAN}break;default:this.state=Zt.NONE}this.state!==Zt.NONE&&this.dispatchEvent(Su)}function hw(i){switch(this.state){case Zt.ROTATE:if(this.enableRotate===!1)return;this._handleMouseMoveRotate(i);break;case Zt.DOLLY:if(this.enableZoom===!1)return;this._handleMouseMoveDolly(i);break;case Zt.PAN:if(this.enablePan===!1)return;this._handleMouseMovePan(i);break}}function uw(i){this.enabled===!1||this.enableZoom===!1||this.state!==Zt.NONE||(i.preventDefault(),this.dispatchEvent(Su),this._handleMouseWheel(this._customWheelEvent(i)),this.dispatchEvent(Km))}function dw(i){this.enabled!==!1&&this._handleKeyDown(i)}function fw(i){switch(this._trackPointer(i),this._pointers.length){case 1:switch(this.touches.ONE){case Mn.ROTATE:if(this.enableRotate===!1){this.state=Zt.NONE;break}this._handleTouchStartRotate(i),this.state=Zt.TOUCH_ROTATE;break;case Mn.PAN:if(this.enablePan===!1){this.state=Zt.NONE;break}this._handleTouchStartPan(i),this.state=Zt.TOUCH_PAN;break;default:this.state=Zt.NONE}break;case 2:switch(this.touches.TWO){case Mn.DOLLY_PAN:if(this.enableZoom===!1&&this.enablePan===!1)return;this._handleTouchStartDollyPan(i),this.state=Zt.TOUCH_DOLLY_PAN;break;case Mn.DOLLY_ROTATE:if(this.enableZoom===!1&&this.enableRotate===!1)return;this._handleTouchStartDollyRotate(i),this.state=Zt.TOUCH_DOLLY_ROTATE;break;default:this.state=Zt.NONE}break;default:this.state=Zt.NONE}this.state!==Zt.NONE&&this.dispatchEvent(Su)}function pw(i){switch(this._trackPointer(i),this.state){case Zt.TOUCH_ROTATE:if(this.enableRotate===!1)return;this._handleTouchMoveRotate(i),this.update();break;case Zt.TOUCH_PAN:if(this.enablePan===!1)return;this._handleTouchMovePan(i),this.update();break;case Zt.TOUCH_DOLLY_PAN:if(this.enableZoom===!1&&this.enablePan===!1)return;this._handleTouchMoveDollyPan(i),this.update();break;case Zt.TOUCH_DOLLY_ROTATE:if(this.enableZoom===!1&&this.enableRotate===!1)return;this._handleTouchMoveDollyRotate(i),this.update();break;default:this.state=Zt.NONE}}function mw(i){this.enabled!==!1&&i.preventDefault()}function gw(i){i.key==="Control"&&(this._controlActive=!0,this.domElement.ownerDocument.addEventListener("keyup",this._interceptControlUp,{passive:!0,capture:!0}))}function _w(i){i.key==="Control"&&(this._controlActive=!1,this.domElement.ownerDocument.removeEventListener("keyup",this._interceptControlUp,{passive:!0,capture:!0}))}var xw={front:[0,.02,1],side:[1,.02,0],top:[0,1,.001],free:[.7,.6,1]};function Mu(i,t){let e=new Fe;return e.setAttribute("position",new me(i,3)),new Ns(e,new _n({color:t}))}var Vl=class{constructor(t,e){Object.assign(this,{canvas:t,picked:e,world:null,selected:new Set}),this.renderer=new Fl({canvas:t,antialias:!0,alpha:!0}),this.scene=new Pr,this.camera=new He(45,1,.01,5e3),this.camera.position.set(8,6,12),this.controls=new Hl(this.camera,t),this.controls.addEventListener("change",()=>this.draw()),this.content=new Ci,this.scene.add(this.content),new ResizeObserver(()=>this.resize()).observe(t.parentElement);let n=null;t.addEventListener("pointerdown",s=>n=[s.clientX,s.clientY]),t.addEventListener("pointerup",s=>{n&&Math.hypot(s.clientX-n[0],s.clientY-n[1])<4&&this.pick(s)})}resize(){let{clientWidth:t,clientHeight:e}=this.canvas.parentElement;!t||!e||(this.renderer.setPixelRatio(window.devicePixelRatio||1),this.renderer.setSize(t,e,!1),this.camera.aspect=t/e,this.camera.updateProjectionMatrix(),this.draw())}show(t,e,n){let s=JSON.stringify(t.cameras[0]?.matrix??null),r=t.points.length&&s!==this.gauge;this.gauge=s,this.world=t,this.selected=n,this.content.traverse(a=>(a.geometry?.dispose(),a.material?.dispose())),this.content.clear(),this.addGround(t),this.addPoints(t),t.stand_ins?.length&&this.content.add(Mu(t.stand_ins.flat(),14658380)),this.frustum=new Ci,this.content.add(this.frustum),this.addPath(t),this.at(e),r&&this.look("free"),this.draw()}addGround(t){if(!t.levelled)return;let e=new Br(t.grid_m*24,24,7105901,4737353);this.content.add(e);let n=[[1,0,0,15041123],[0,1,0,9682274],[0,0,1,7185116]];for(let[s,r,a,o]of n)this.content.add(Mu([0,0,0,s,r,a],o))}addPoints(t){let e=[],n=[];for(let[a,o,l,c,h]of t.points){e.push(o,l,c);let d=this.selected.has(a)?[223,171,76]:ur(h);n.push(...d.map(u=>u/255))}let s=new Fe;s.setAttribute("position",new me(e,3)),s.setAttribute("color",new me(n,3)),this.content.add(new Os(s,new Kn({size:3,sizeAttenuation:!1,vertexColors:!0})));let r=t.points.filter(([a])=>this.selected.has(a)).flatMap(([,a,o,l])=>[a,o,l]);if(r.length){let a=new Fe;a.setAttribute("position",new me(r,3)),this.content.add(new Os(a,new Kn({size:8,sizeAttenuation:!1,color:14658380})))}}addPath(t){let e=t.cameras.map(n=>new N(n.matrix[12],n.matrix[13],n.matrix[14]));e.length<2||this.content.add(new Ds(new Fe().setFromPoints(e),new _n({color:15526110})))}at(t){if(!this.frustum)return;this.frustum.clear();let e=this.world?.cameras.find(c=>c.frame===t);if(!e)return;let[n,s]=this.world.view,r=.6,a=[[-n,s],[n,s],[n,-s],[-n,-s]].map(([c,h])=>[c*r,h*r,-r]),o=a.flatMap((c,h)=>[0,0,0,...c,...c,...a[(h+1)%4]]),l=Mu(o,6273189);l.applyMatrix4(new se().fromArray(e.matrix)),this.frustum.add(l),this.draw()}look(t){let n=(this.world?.points??[]).map(([,a,o,l])=>new N(a,o,l));for(let a of this.world?.cameras??[])n.push(new N(a.matrix[12],a.matrix[13],a.matrix[14]));if(!n.length)return;let s=new N(...["x","y","z"].map(a=>n.map(o=>o[a]).sort((o,l)=>o-l)[n.length>>1])),r=n.map(a=>a.distanceTo(s)).sort((a,o)=>a-o)[Math.floor(n.length*.75)]||1;this.controls.target.copy(s),this.camera.position.copy(s).add(new N(...xw[t]).normalize().multiplyScalar(r*2.6)),this.camera.near=r/200,this.camera.far=r*400,this.camera.updateProjectionMatrix(),this.controls.update(),this.draw()}pick(t){let e=this.canvas.getBoundingClientRect(),n=[10,null],s=new N;for(let[r,a,o,l]of this.world?.points??[]){if(s.set(a,o,l).project(this.camera),s.z>1)continue;let c=Math.hypot((s.x*.5+.5)*e.width-(t.clientX-e.left),(.5-s.y*.5)*e.height-(t.clientY-e.top));c<n[0]&&(n=[c,r])}this.picked(n[1]===null?[]:[n[1]],t.shiftKey)}draw(){this.renderer.render(this.scene,this.camera)}};var Gl=64,Jm=14,jm=18,yw=8,Fi=24,Wl=class{constructor(t,e,n){Object.assign(this,{canvas:t,data:e,host:n,held:null,lives:new Ua}),this.ctx=t.getContext("2d"),new ResizeObserver(()=>this.draw()).observe(t.parentElement);let s=a=>{let o=t.getBoundingClientRect(),{first:l,last:c}=this.data(),h=(a.clientX-o.left-Gl)/(o.width-Gl-Jm);return Math.round(l+Math.min(1,Math.max(0,h))*(c-l))},r=a=>{if(!this.held)return this.host.seek(s(a));let o=this.data();this.held.frame=this.held.end==="in"?Math.min(s(a),o.to):Math.max(s(a),o.from),this.draw()};t.addEventListener("pointerdown",a=>{let o=a.shiftKey?this.lifelineAt(a):null;if(o!==null)return this.host.pick([o],!0);t.setPointerCapture(a.pointerId),this.held=this.handleAt(a),r(a)}),t.addEventListener("pointermove",a=>a.buttons&1&&!a.shiftKey&&r(a)),t.addEventListener("pointerup",()=>{let{held:a}=this;this.held=null;let o=this.data();a?.end==="in"&&a.frame!==o.from&&this.host.setRange(a.frame,o.to),a?.end==="out"&&a.frame!==o.to&&this.host.setRange(o.from,a.frame)})}x(t,e){let n=this.canvas.parentElement.clientWidth;return Gl+(t-e.first)/Math.max(1,e.last-e.first)*(n-Gl-Jm)}handleAt(t){let e=this.canvas.getBoundingClientRect(),n=this.data();if(t.clientY-e.top>jm)return null;let[s]=[["in",n.from],["out",n.to]].map(([r,a])=>({end:r,frame:a,off:Math.abs(t.clientX-e.left-this.x(a,n))})).sort((r,a)=>r.off-a.off);return s.off<yw?s:null}handles(t,e,n,s){let{ctx:r}=this,a=this.held?.end==="in"?this.held.frame:t.from,o=this.held?.end==="out"?this.held.frame:t.to;r.fillStyle=Nt("--panel"),r.globalAlpha=.72,a>t.first&&r.fillRect(0,0,e(a)-1,s),o<t.last&&r.fillRect(e(o)+1,0,n,s),r.globalAlpha=1,r.fillStyle=Nt("--active");for(let[l,c]of[[a,1],[o,-1]]){let h=Math.round(e(l));r.fillRect(h-.75,0,1.5,jm),r.beginPath(),r.moveTo(h,0),r.lineTo(h+6*c,0),r.lineTo(h,8),r.fill()}}draw(){let{clientWidth:t,clientHeight:e}=this.canvas.parentElement,n=window.devicePixelRatio||1;this.canvas.width=Math.max(1,t*n),this.canvas.height=Math.max(1,e*n);let{ctx:s}=this;s.setTransform(n,0,0,n,0,0);let r=this.data(),a=o=>this.x(o,r);this.ruler(r,a,e),r.chart==="px"&&r.cameras.length?this.errors(r,a,e):r.tracks.length&&this.lifelines(r,a,t,e),this.handles(r,a,t,e),s.fillStyle=Nt("--chosen"),s.fillRect(Math.round(a(r.frame))-.75,0,1.5,e)}ruler(t,e,n){let{ctx:s}=this,r=[1,2,5,10,20,50,100,200,500].find(o=>e(t.first+o)-e(t.first)>56)??1e3;s.font='11px "Plex Mono", monospace';for(let o=Math.ceil(t.first/r)*r;o<=t.last;o+=r)s.fillStyle=Nt("--line"),s.fillRect(Math.round(e(o)),16,1,n-16),s.fillStyle=Nt("--faint"),s.fillText(String(o),e(o)-2,11);s.fillStyle=Nt("--active");let a=Math.max(1.5,e(t.first+1)-e(t.first));for(let o=t.first;o<=t.last;o++)t.cached(o)&&s.fillRect(e(o)-a/2,15,a,2.5)}errors(t,e,n){let{ctx:s}=this,r=Math.max(.25,...t.cameras.map(o=>o.rms))*1.15,a=o=>n-6-o/r*(n-34);s.fillStyle=Nt("--dim"),s.font='11px "Atkinson", sans-serif',s.fillText("px per",8,34),s.fillText("frame",8,47),s.font='11px "Plex Mono", monospace',s.fillText(r.toFixed(2),8,64),s.beginPath(),t.cameras.forEach((o,l)=>l?s.lineTo(e(o.frame),a(o.rms)):s.moveTo(e(o.frame),a(o.rms))),s.strokeStyle=Nt("--active"),s.lineWidth=1.5,s.stroke()}lifelines(t,e,n,s){let{ctx:r}=this;r.fillStyle=Nt("--dim"),r.font='11px "Atkinson", sans-serif',r.fillText("lifelines",8,34),r.font='11px "Plex Mono", monospace',r.fillText(String(t.tracks.length),8,48);let a=window.devicePixelRatio||1;r.drawImage(this.lives.picture(t,e,n,s-Fi,a),0,Fi,n,s-Fi),this.lives.chosen(r,t,e,Fi),r.fillStyle=Nt("--chalk");for(let o of t.keys){let l=e(o);r.beginPath(),r.moveTo(l,Fi-7),r.lineTo(l+4,Fi-3),r.lineTo(l,Fi+1),r.lineTo(l-4,Fi-3),r.fill()}}lifelineAt(t){let e=this.data(),n=this.canvas.getBoundingClientRect(),s=Math.floor((t.clientY-n.top-Fi)/(this.lives.row||1));return e.chart==="lifelines"&&t.clientY-n.top>Fi?e.tracks[s]?.id??null:null}};var vw={ingest:"Making viewing copies",track:"Following features",hand:"Following hand tracks",judge:"Judging tracks",solve:"Solving",solve_again:"Solving again",deliver:"Delivering",undistort:"Undistorting"},Sw=i=>i==null?"":i<1.5?"nearly done":i<90?`about ${Math.round(i)} s left`:`about ${Math.round(i/60)} min left`,Qm=i=>({...i,word:vw[i.kind],share:i.total?Math.round(100*i.done/i.total):0,said:[i.stage,Sw(i.left_s)].filter(Boolean).join(" \xB7 ")});var Mw=350,tg=24,eg={plate:{},lens:{},track:{tracks:!0},solve:{tracks:!0},orient:{landmarks:!0,grid:!0},proof:{landmarks:!0,grid:!0,boxes:!0},deliver:{boxes:!0,grid:!0}},bw=(...i)=>i.reduce((t,e)=>Object.defineProperties(t,Object.getOwnPropertyDescriptors(e)),{}),ig=()=>bw(Jf,Df,qf,Gf,Wf,{ready:!1,s:null,station:"plate",frame:0,playing:!1,loop:!0,rateShown:0,error:"",help:!1,showAside:!1,spaceMode:"third",selectedCount:0,selectionSeen:0,cachedCount:0,metres:"",box:{w:"0.5",h:"0.5",d:"0.5",name:"box"},...ba,...jf,async init(){this.id=Number(this.$root.dataset.shot),this.data=Re({tracks:[],world:{cameras:[],points:[]},overlay:new Map,selected:new Set,tints:new Map}),this.versions={},this.beginLens(),this.beginHands(),this.beginMattes(),this.s=await de(`/api/shots/${this.id}`);let i=location.hash.slice(1);this.station=eg[i]?i:"plate",this.frame=this.first,this.s.solve||(this.spaceMode="off"),this.ready=!0,await this.$nextTick(),this.frames=Re(new za(this.id,this.s.width,this.s.height,Number(this.memory)*1e6,t=>this.arrived(t))),this.plateView=Re(new Va(this.$refs.plate,this.$refs.loupe,this.s.width,this.s.height,()=>this.drawn(),(t,e)=>this.pick(t,e))),this.strip=Re(new Wl(this.$refs.strip,()=>this.stripData(),{seek:t=>this.seek(t),setRange:(t,e)=>this.keepRange(t,e),pick:(t,e)=>this.pick(t,e)}));try{this.spaceView=Re(new Vl(this.$refs.space,(t,e)=>this.pick(t,e)))}catch{this.spaceMode="off"}window.addEventListener("keydown",t=>this.key(t)),window.addEventListener("keyup",()=>(this.keepNudge(),this.keepHandNudge())),window.addEventListener("blur",()=>this.keepNudge()),await this.follow(this.s),this.frames.fill(this.first,this.last)},get first(){return this.s.state.range?this.s.state.range[0]:this.s.plate.first},get last(){return this.s.state.range?this.s.state.range[1]:this.s.plate.last},get findings(){return this.station==="lens"?this.lensLive?.findings??[]:this.s.findings.filter(i=>i.station===this.station)},get work(){return this.s.jobs.filter(i=>i.state==="queued"||i.state==="running").map(Qm)},get busy(){return this.work.length>0},get lastJob(){let i={plate:["ingest"],track:["track","hand","judge"],solve:["solve","solve_again"],deliver:["deliver","undistort"]}[this.station]??[],t=this.s.jobs.find(e=>i.includes(e.kind));return t&&["failed","cancelled","done"].includes(t.state)?t:null},get attempts(){return this.s.attempts.map(i=>({...i,px:`${i.rms_px.toFixed(2)} px`,current:i.id===this.s.state.attempt}))},async follow(i){this.s=i,this.followLens(),this.lookAnew();let{run:t,attempt:e,culled:n,kept_movers:s,picks:r,stand_ins:a,grid_m:o,hands:l,notes:c,range:h}=i.state,d=i.state.mattes.filter(_=>_.source.kind==="drawn"),u=i.jobs.find(_=>(_.kind==="hand"||_.kind==="judge")&&_.state==="done"),m=JSON.stringify([e,r,a,o]),g=JSON.stringify([t,e,n,s,l,c,d,h,u?.id]);this.versions.tracks!==g&&(this.versions.tracks=g,this.data.tracks=(await de(`/api/shots/${this.id}/tracks`)).tracks,this.data.tints=kf(this.data.tracks),this.tracksSeen+=1,this.askCompared()),this.versions.world!==m&&(this.versions.world=m,this.data.before=this.data.overlay,this.data.overlay=new Map,this.data.world=await de(`/api/shots/${this.id}/world`),this.data.world.points.length&&!this.hadWorld&&this.spaceView&&(this.spaceMode="third"),this.hadWorld=this.data.world.points.length>0,this.spaceView?.show(this.data.world,this.frame,this.data.selected)),this.redraw(),this.work.length&&!this.polling&&this.poll()},async poll(){for(this.polling=!0;this.work.length;){await new Promise(i=>setTimeout(i,Mw));try{await this.refresh()}catch{}}this.polling=!1},cancel(i){return this.act(()=>$t(`/api/jobs/${i}/cancel`))},setRate(i){let t=i.target.value.trim();return this.edit("state the rate",{rate:t===""||t==="unknown"?null:t})},setRange(i){let[t,e]=i.target.value.split(/[–-]/).map(n=>Number.parseInt(n,10));return this.edit("set in and out",{range:Number.isFinite(t)&&Number.isFinite(e)?[t,e]:null})},keepRange(i,t){let e=i===this.s.plate.first&&t===this.s.plate.last;return this.edit("set in and out",{range:e?null:[i,t]})},setFirstDelivered(i){let t=i.target.value.trim();return this.edit("number the delivery",{first_delivered:t===""?null:Number(t)})},setIn(){return this.keepRange(Math.min(this.frame,this.last),this.last)},setOut(){return this.keepRange(this.first,Math.max(this.frame,this.first))},setNumber(i,t,e){let n=Number(e.target.value);return this.edit(`set ${t.replaceAll("_"," ")}`,i?{[i]:{[t]:n}}:{[t]:n})},setLimit(i){let t=i.target.value.trim();return this.edit("set the limit",{limit_px:t===""?null:Number.parseFloat(t)})},toggle(i){return this.edit(`switch ${i.replaceAll("_"," ")}`,{[i]:!this.s.state[i]})},chooseAttempt(i){return this.edit("choose an attempt",{attempt:i})},pick(i,t){let e=this.data.selected;t||e.clear();for(let n of i)t&&e.has(n)&&i.length===1?e.delete(n):e.add(n);this.selectedCount=e.size,this.selectionSeen+=1,this.askCompared(),this.spaceView?.show(this.data.world,this.frame,e),this.redraw()},get selectedNames(){let i=t=>this.data.tracks.find(e=>e.id===t)?.name??`t${String(t).padStart(4,"0")}`;return this.selectedCount===0||!this.selectionSeen?"nothing selected":[...this.data.selected].slice(0,4).map(i).join(", ")+(this.selectedCount>4?` and ${this.selectedCount-4} more`:"")},setAside(){return this.act(()=>$t(`/api/shots/${this.id}/cull`,{aside:[...this.data.selected]}))},bringBack(){return this.act(()=>$t(`/api/shots/${this.id}/cull`,{back:[...this.data.selected]}))},toggleAside(){this.showAside=!this.showAside,this.redraw()},makeGround(){return this.edit("make the ground",{picks:{ground:[...this.data.selected]}})},makeOrigin(){return this.edit("set the origin",{picks:{origin:[...this.data.selected][0]}})},makeDistance(){let[i,t]=[...this.data.selected];return this.edit("state a distance",{picks:{distance:[i,t,Number.parseFloat(this.metres)]}})},startOverOrienting(){return this.edit("clear the orientation",{picks:{ground:[],origin:null,distance:null}})},standBox(){let i=[...this.data.selected][0],t=[this.box.w,this.box.h,this.box.d].map(Number.parseFloat),e=[...this.s.state.stand_ins,{name:this.box.name||"box",at:i,size_m:t,turn_deg:0}];return this.edit("stand a box",{stand_ins:e})},removeBox(i){return this.edit("remove a box",{stand_ins:this.s.state.stand_ins.filter((t,e)=>e!==i)})},drawn(){return{picture:this.frames?.at(this.frame)??this.lastPicture,frame:this.frame,tracks:this.data.tracks,selected:this.data.selected,overlay:this.overlayAt(this.frame),show:{...eg[this.station],aside:this.showAside,lensGrid:this.lensGrid},bend:this.bendShown,lens:this.marking.answer,tool:{lens:this.tool,track:this.trackTool}[this.station]??null,playing:this.playing,tints:this.data.tints,looping:this.looping,preview:this.previewShown(),mask:this.maskShown(),hold:this.holdShown()}},overlayAt(i){if(!this.s.state.attempt)return null;let t=this.data.overlay.get(i);return t===void 0&&this.askOverlay(i),t===void 0?this.data.before?.get(i):t},async askOverlay(i){let t=this.versions.world;if(this.asking===t+i)return;this.asking=t+i;let e=await de(`/api/shots/${this.id}/overlay?from=${i}&to=${i+tg}`).catch(()=>({}));if(t===this.versions.world){for(let n=i;n<=i+tg;n++)this.data.overlay.set(n,e[n]??null);this.redraw()}},stripData(){return{first:this.s.plate.first,last:this.s.plate.last,from:this.first,to:this.last,frame:this.frame,cached:i=>this.frames?.has(i),tracks:this.sorted(),cameras:this.data.world.cameras,selected:this.data.selected,keys:this.hand?.keys.map(i=>i.frame)??[],version:`${this.data.listed?.wanted} ${this.s.plate.first} ${this.s.plate.last}`,chart:["solve","orient","proof","deliver"].includes(this.station)?"px":"lifelines"}},arrived(i){this.cachedCount=this.frames.pictures.size,i===this.frame?this.redraw():this.strip.draw()},redraw(){this.plateView&&(this.plateView.draw(),this.strip.draw())},fit(){this.plateView.viewport.fit(),this.redraw()},oneToOne(){this.plateView.viewport.oneToOne(),this.redraw()},async swapSpace(){this.spaceMode={off:"third",third:"whole",whole:"off"}[this.spaceMode]},look(i){this.spaceView?.look(i)}});var ng=()=>({over:!1,busy:"",error:"",path:"",folders:[],plate:null,movies:[],async init(){this.$root.dataset.plates==="true"&&await this.enter("")},async guarded(i,t){this.busy=i,this.error="";try{await t()}catch(e){this.error=e.message}this.busy=""},dropped(i){this.over=!1,this.send([...i.dataTransfer.files])},chosen(i){this.send([...i.target.files])},async send(i){i.length&&await this.guarded(i.length===1?`Taking in ${i[0].name}`:`Taking in ${i.length} files`,async()=>{let{shot:t}=await ff(i);location.href=`/shots/${t}`})},async enter(i){await this.guarded("",async()=>{let t=await de(`/api/folders?path=${encodeURIComponent(i)}`);this.path=i,this.folders=t.folders,this.plate=t.plate,this.movies=t.movies})},async down(i){await this.enter(this.path?`${this.path}/${i}`:i)},async upwards(){await this.enter(this.path.split("/").slice(0,-1).join("/"))},async openMovie(i){await this.guarded("Looking at the movie",async()=>{let{shot:t}=await $t("/api/shots",{folder:this.path?`${this.path}/${i}`:i});location.href=`/shots/${t}`})},async open(){await this.guarded("Opening the folder",async()=>{let{shot:i}=await $t("/api/shots",{folder:this.path||"."});location.href=`/shots/${i}`})}});cr.data("photo",Lf);cr.data("shot",ig);cr.data("start",ng);document.documentElement.dataset.theme=localStorage.getItem("theme")||"dusk";window.addEventListener("DOMContentLoaded",()=>cr.start());
/*! Bundled license information:

@alpinejs/csp/dist/module.esm.js:
  (*! Bundled license information:
  
  @vue/shared/dist/shared.esm-bundler.js:
    (**
    * @vue/shared v3.5.41
    * (c) 2018-present Yuxi (Evan) You and Vue contributors
    * @license MIT
    **)
  
  @vue/reactivity/dist/reactivity.esm-bundler.js:
    (**
    * @vue/reactivity v3.5.41
    * (c) 2018-present Yuxi (Evan) You and Vue contributors
    * @license MIT
    **)
  *)

three/build/three.core.js:
three/build/three.module.js:
  (**
   * @license
   * Copyright 2010-2026 Three.js Authors
   * SPDX-License-Identifier: MIT
   *)
*/
