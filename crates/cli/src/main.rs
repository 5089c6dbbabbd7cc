use parallax_core::{solve::*, track::{*, session::*}, camera::*, spaces::*, progress::*};
use std::time::Instant;
fn main(){
 let a:Vec<String>=std::env::args().collect();
 let dir=std::path::PathBuf::from(&a[1]);
 if a[2]=="trial" {
   let seed:u64=a[3].parse().unwrap(); let mut t=parallax_demo::trial::Trial::new(seed);
   for kv in &a[4..] { let (k,v)=kv.split_once('=').unwrap(); match k { "w"=>t.width_px=v.parse().unwrap(),"h"=>t.height_px=v.parse().unwrap(),"n"=>t.frame_count=v.parse().unwrap(),"g"=>t.grain_levels=v.parse().unwrap(),"m"=>t.large_mover=v=="1","r"=>t.rays=v.parse().unwrap(),"turn"=>t.camera=parallax_demo::trial::Move::Turn,_=>panic!()}}
   parallax_demo::plates::write(&t.take(),&dir,parallax_demo::plates::Coding::Png,|_|{}).unwrap(); return; }
 let truth=parallax_formats::camera_json::CameraFile::read(&std::fs::read_to_string(&a[2]).unwrap()).unwrap();
 let t0=Instant::now();
 let (_s,plate)=parallax_media::Plate::in_folder(&dir,false).unwrap();
 let o=TrackOptions::for_size(plate.width_px,plate.height_px);
 let tracks=follow_plate(&plate,&o,&Silent).unwrap();
 let samples:usize=tracks.iter().map(|t|t.samples.len()).sum();
 eprintln!("track {:.2}s tracks {} samples {} mean len {:.1} per frame {:.0}",t0.elapsed().as_secs_f64(),tracks.len(),samples,samples as f64/tracks.len() as f64, samples as f64/plate.frames().len() as f64);
 // truth error by depth: back-project first sample via known ray? use fitted: triangulate with true cameras
 let lens=truth.intrinsics(&truth.frames[0]);
 let poses:std::collections::HashMap<i32,Pose>=truth.frames.iter().map(|f|(f.frame,f.pose().unwrap())).collect();
 let t1=Instant::now();
 let m=judge::movers(&tracks,plate.width_px);
 eprintln!("movers {} in {:.2}s",m.len(),t1.elapsed().as_secs_f64());
 let v=views::Views::new(&tracks,plate.width_px);
 let mut e30=vec![]; let mut e1=vec![]; let mut nz=vec![]; let mut sg=vec![]; let byid:std::collections::HashMap<_,_>=tracks.iter().map(|t|(t.id,t)).collect();
 for (k,_) in v.tracks.iter().enumerate(){ if m.contains(&v.tracks[k]) {continue;}
   let s:Vec<(Pose,views::Seen)>=v.seen[k].iter().map(|s|(poses[&v.frames[s.frame].0],*s)).collect();
   if let Some(t)=triangulate::triangulate(&lens,&s,bundle::Loss::Cauchy(3.0),3.0){ 
     let off=|i:usize| lens.project(&s[i].0,&WorldPoint(t.point.into())).map(|p|p.offset_from(s[i].1.px)).unwrap_or(nalgebra::Vector2::new(99.,99.));
     if s.len()>30 {e30.push((off(30)-off(0)).norm());} if s.len()>12 {let c=byid[&v.tracks[k]].samples[5].covariance; let e=off(5)-off(0); nz.push(e.x.abs()/c.xx.sqrt()/0.6745); sg.push(c.sigma_px());} if s.len()>5{e1.push((off(2)-off(0)).norm());} } }
 e30.sort_by(f64::total_cmp); e1.sort_by(f64::total_cmp);
 if e30.len()>0 {eprintln!("err vs first, frame 30: n {} median {:.3} p90 {:.3} p99 {:.3}; frame2 median {:.3}",e30.len(),e30[e30.len()/2],e30[e30.len()*9/10],e30[e30.len()*99/100],e1[e1.len()/2]);}
 nz.sort_by(f64::total_cmp); sg.sort_by(f64::total_cmp); eprintln!("median |ex|/sigma (1 = honest) {:.2}, median stated sigma {:.3}",nz[nz.len()/2],sg[sg.len()/2]);
 { let mut per:std::collections::BTreeMap<usize,Vec<(f64,f64)>>=Default::default(); let mut steps=vec![]; let mut res=vec![];
 for (k,_) in v.tracks.iter().enumerate(){ let s:Vec<(Pose,views::Seen)>=v.seen[k].iter().map(|s|(poses[&v.frames[s.frame].0],*s)).collect(); if s.len()<15 {continue}
  if let Some(t)=triangulate::triangulate(&lens,&s,bundle::Loss::Cauchy(3.0),3.0){ let off:Vec<_>=s.iter().map(|x| lens.project(&x.0,&WorldPoint(t.point.into())).map(|p|p.offset_from(x.1.px)).unwrap_or(nalgebra::Vector2::new(99.,99.))).collect();
   for (x,o) in s.iter().zip(&off){per.entry(x.1.frame).or_default().push((o.x,o.y)); res.push(o.norm());} for w in off.windows(2){steps.push((w[1]-w[0]).norm());} }}
 res.sort_by(f64::total_cmp); steps.sort_by(f64::total_cmp); eprintln!("resid median {:.3} p90 {:.3}; step-to-step median {:.3}",res[res.len()/2],res[res.len()*9/10],steps[steps.len()/2]);
 for (f,l) in per.iter().take(16){ let mut x:Vec<f64>=l.iter().map(|a|a.0).collect(); let mut y:Vec<f64>=l.iter().map(|a|a.1).collect(); x.sort_by(f64::total_cmp);y.sort_by(f64::total_cmp); eprint!("f{f} ({:.3},{:.3}) ",x[x.len()/2],y[y.len()/2]); } eprintln!(); }
 let t2=Instant::now();
 let mut l0=Intrinsics::centred(plate.width_px,plate.height_px,1.0); 
 let solve_lens=a.iter().any(|x|x=="lens"); if a.iter().any(|x|x=="given") {l0.distortion=lens.distortion;}
 let focal=if a.iter().any(|x|x=="known"){FocalKnowledge::Known(lens.focal_px)}else{FocalKnowledge::Unknown};
 let opt=SolveOptions{lens:l0,focal,solve_lens,limit_px:None};
 match solve(&tracks,&opt,&Silent){ Err(e)=>eprintln!("ERR {e}"), Ok(at)=>{
   eprintln!("solve {:.2}s focal {:.2} truth {:.2} ({:+.3}%) sigma {:?} rms {:.3} landmarks {} aside {} frames {} parallax {:.2} {:?} k {:?}",t2.elapsed().as_secs_f64(),at.lens.focal_px,lens.focal_px,(at.lens.focal_px/lens.focal_px-1.0)*100.0,at.focal_sigma_px,at.rms_px,at.landmarks.len(),at.set_aside.len(),at.frames.len(),at.parallax_deg,at.verdict,(at.lens.distortion.k1,at.lens.distortion.k2));
   let fr=at.frames.iter().map(|f|parallax_formats::camera_json::CameraFrame::new(f.frame,&at.lens,&f.pose)).collect();
   let file=parallax_formats::camera_json::CameraFile::new(truth.fps,&at.lens,parallax_core::plate::FilmBack::assumed(16,9),fr,vec![]);
   eprintln!("{:?}",parallax_demo::compare::compare(&file,&truth));
 }}
}
