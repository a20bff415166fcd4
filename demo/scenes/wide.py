"""Two scenes seen wide: the mill's yard at 16 mm, and the glasshouse through a fisheye.

Usage: run.sh wide.py yard|fisheye OUT WIDTH SAMPLES.  The scene's own script is run with another camera and a few
things more, round ones near the edge, whose shape one knows; the fisheye is put together from faces of a cube.
"""
import sys, json, math, numpy as np, cv2
import common, kit, veg
from common import M, T, bump, diffuse, mottled, princ, two, mi
WHICH,OUT,W,SPP=sys.argv[1],sys.argv[2],int(sys.argv[3]),int(sys.argv[4]); H=W*2//3
FACE=46.0                                              # half the field of a face: a little over, for the joints
Flat,flat_render,flat_save,flat_denoise=common.Cam,common.render,common.save,common.denoise
class Fisheye(Flat):
    """Equisolid: r = 2 f sin(t / 2), the corners of the picture 90 degrees off its middle."""
    def __init__(s,pos,yaw,pitch,roll,hfov,W,H,k1=0.):
        super().__init__(pos,yaw,pitch,roll,90,W,H); s.f=s.hd/(2*math.sin(math.pi/4)); s.hfov=math.degrees(2*math.atan(W/2/s.f))
    def project(s,P):
        d=np.asarray(P,float)-s.pos; x,y,z=d@s.rt,-(d@s.up),d@s.fw; a=np.hypot(x,y); t=np.arctan2(a,z); g=2*s.f*np.sin(t/2)/np.maximum(a,1e-12)
        return s.cx+x*g,s.cy+y*g,np.where(t<math.radians(100),np.maximum(np.linalg.norm(d,axis=-1),.2),-1)
    ideal=project
    def rays(s,W,H):
        """Camera rays (x right, y down, z forward) of every pixel."""
        k=s.W/W; y,x=np.mgrid[0:H,0:W]; x,y=(x+.5)*k-s.cx,(y+.5)*k-s.cy; r=np.hypot(x,y); t=2*np.arcsin(np.minimum(r/2/s.f,1)); g=np.sin(t)/np.maximum(r,1e-9)
        return np.stack([x*g,y*g,np.cos(t)],-1)
POSES={'yard':((1.2,2.3,1.65),5,9,-1.4,math.degrees(2*math.atan(18/16)),-.03),'fisheye':((1.3,3.2,1.6),12,6,1.9,90,0.)}
POSE,last=POSES[WHICH],{}
def cam(pos,yaw,pitch,roll,hfov,W,H,k1=0.):
    made=(Fisheye if WHICH=='fisheye' else Flat)(*POSE[:5],3000,2000,POSE[5]); last.setdefault('cam',made); return made
def at(azimuth,elevation,distance):
    """A place as it is seen from the camera, by angles in the world."""
    a,e=math.radians(POSE[1]+azimuth),math.radians(elevation); return np.array(POSE[0])+distance*np.array([math.cos(e)*math.sin(a),math.cos(e)*math.cos(a),math.sin(e)])
ROUND=[]
def more(sc):
    """Balls on pillars, and barrels: what is round looks wrong at once when it is stretched."""
    stone,st=M(),mottled(1024,(.66,.62,.54),5,.10,1.0); wood,wt=M(),mottled(512,(.40,.28,.18),6,.16,1.1); iron=M()
    places={'yard':((-39,5.2,.34),(38,5.0,.34)),'fisheye':((-52,4.2,.30),(52,4.2,.30))}[WHICH]
    for q,(az,dist,rad) in enumerate(places):
        x,y,_=at(az,0,dist); top=1.55
        stone.box((x-.27,y-.27,0),(x+.27,y+.27,top),2.3,'z',rnd=q); stone.box((x-.36,y-.36,top),(x+.36,y+.36,top+.12),2.3,rnd=q+5); stone.cyl((x,y,top+.12),(x,y,top+.22),.14,.12,24)
        c=(x,y,top+.2+rad); ROUND.append(dict(id=f'ball {q+1}',centre=[float(v) for v in c],radius=rad))
        sc[f'ball{q}']={'type':'sphere','center':list(c),'radius':rad,'b':two(diffuse([.40,.375,.32]))['b']}
    for q,(az,dist) in enumerate({'yard':((-31,3.6),(-26,4.1),(33,3.5)),'fisheye':((-40,3.2),(40,3.0))}[WHICH]):
        x,y,_=at(az,0,dist); h=.86
        for i in range(8): z0,z1=i*h/8,(i+1)*h/8; b=lambda z: .27+.06*math.sin(math.pi*z/h); wood.cyl((x,y,z0),(x,y,z1),b(z0),b(z1),32,1.)
        for z in (.08,.28,.58,.78): iron.cyl((x,y,z-.02),(x,y,z+.02),.275+.06*math.sin(math.pi*z/h),n=32)
    if WHICH=='fisheye':                               # a wooded rise all around, where the scene's own ground ends
        n=600; a=np.linspace(0,2*np.pi,n+1); rise=6+3*common.noise(1024,1.7,9,3)[0,:n]; rise=np.append(rise,rise[0]); far=75+8*np.sin(3*a); g=np.stack([np.stack([far*np.sin(a),far*np.cos(a),q*np.maximum(rise,2.)-1],-1) for q in (0,.35,.7,1)]); uv=np.stack([np.stack([a*far/9,0*a+q*1.2],-1) for q in (0,.35,.7,1)])
        rim=M(); rim.grid(g,uv); green=mottled(1024,(.17,.23,.10),31,.30,.7); sc['more_rim']=rim.mesh('more_rim',two(diffuse(green[0])))
    sc['more_stone']=stone.mesh('more_stone',bump(two(diffuse(st[0])),st[1],.004)); sc['more_wood']=wood.mesh('more_wood',bump(two(diffuse(wt[0])),wt[1],.004)); sc['more_iron']=iron.mesh('more_iron',two(princ([.10,.10,.10],.5,.4)))
def render(sc,Wr,Hr,spp,per=2,depth=6,log=None):
    more(sc)
    if WHICH!='fisheye': return flat_render(sc,Wr,Hr,spp,per,depth,log)
    c=last['cam']; N=int(W*.62); sc.pop('sensor',None); rays=c.rays(Wr,Hr); x,y,z=np.moveaxis(rays,-1,0); size=np.abs(rays).argmax(-1); out=None
    for name,fw,up,m,u,v,w in (('front',c.fw,c.up,(size==2)&(z>0),x,y,z),('left',-c.rt,c.up,(size==0)&(x<0),z,y,-x),('right',c.rt,c.up,(size==0)&(x>0),-z,y,x),('up',c.up,-c.fw,(size==1)&(y<0),x,z,-y),('down',-c.up,c.fw,(size==1)&(y>0),x,-z,y)):
        sc['sensor']={'type':'perspective','fov':2*FACE,'fov_axis':'x','near_clip':.05,'far_clip':2e4,'to_world':T().look_at(list(c.pos),list(c.pos+fw),list(up)),'film':{'type':'hdrfilm','width':N,'height':N,'rfilter':{'type':'box'},'pixel_format':'rgb','component_format':'float32'},'sampler':{'type':'independent'}}
        a,info=flat_render(dict(sc),N,N,spp,per,depth,log); a[...,:3]=flat_denoise(a)[0]; h=math.tan(math.radians(FACE)); w=np.where(m,w,1.)
        X,Y=(((q/w/h+1)/2*N-.5).astype(np.float32) for q in (u,v)); out=np.zeros((Hr,Wr,a.shape[-1]),np.float32) if out is None else out
        for k in range(a.shape[-1]): out[...,k]=np.where(m,cv2.remap(np.ascontiguousarray(a[...,k]),X,Y,cv2.INTER_CUBIC if k<3 else cv2.INTER_NEAREST,borderMode=cv2.BORDER_REPLICATE),out[...,k])
        print(name,info,flush=True)
    out[...,:3]=np.maximum(out[...,:3],0); return out,info
def denoise(a): return (np.ascontiguousarray(a[...,:3]),0.) if WHICH=='fisheye' else flat_denoise(a)
def check(ideal,c,a,over,Wr,Hr):
    """The renderer's places, seen by our own camera, must fall on the middles of their pixels."""
    wide=c if WHICH=='fisheye' else Flat(c.pos,c.yaw,c.pitch,c.roll,math.degrees(2*math.atan(math.tan(math.radians(c.hfov)/2)*over)),c.W,c.H)
    p,d=a[...,-3:],a[...,9]; gy,gx=np.gradient(d); m=(d>0)&(d<80)&(np.hypot(gx,gy)<.02*np.maximum(d,1)); yy,xx=np.mgrid[0:Hr,0:Wr]; k=c.W/Wr; px,py,_=wide.ideal(p[m]); ex,ey=px/k-xx[m]-.5,py/k-yy[m]-.5; e=np.hypot(ex,ey)
    return dict(n=int(m.sum()),median_px=round(float(np.median(e)),3),p95_px=round(float(np.percentile(e,95)),3),bias_px=[round(float(np.mean(ex)),4),round(float(np.mean(ey)),4)])
def save(img,path,c,date):
    """As ever, with this lens's own focal length: of a fisheye its own, not that of a flat picture as wide."""
    fl,fl35=flat_save(img,path,c,{'yard':'2026:06:14 16:05:31','fisheye':'2026:05:23 11:02:17'}[WHICH])
    if WHICH=='fisheye':
        import piexif; fl,fl35=c.f*23.6/3000,c.f*36/3000; ex=piexif.load(path); ex['Exif'][piexif.ExifIFD.FocalLength]=(round(fl*100),100); ex['Exif'][piexif.ExifIFD.FocalLengthIn35mmFilm]=round(fl35); ex['Exif'][piexif.ExifIFD.LensModel]=b'IO 10mm Fisheye'; piexif.insert(piexif.dump(ex),path)
    return fl,fl35
for module in (common,kit,veg): module.Cam,module.render,module.save,module.denoise,module.poscheck=cam,render,save,denoise,check
scene={'yard':'mill.py','fisheye':'glasshouse.py'}[WHICH]; sys.argv=[scene,OUT,str(W),str(SPP)]
exec(compile(open(scene).read(),scene,'exec'),{'__name__':'__main__'})
c=last['cam']; told=json.load(open(OUT+'.json'))
told.update(scene={'yard':'the grain mill and its yard at 16 mm','fisheye':'the botanical glasshouse through a fisheye'}[WHICH],roll_deg=POSE[3],pitch_deg=POSE[2],yaw_deg=POSE[1],hfov_deg=round(c.hfov,4),f_px=c.f,camera_pos=list(POSE[0]),round_things=ROUND)
told.pop('hfov_note',None); told.pop('rectangles',None)
if WHICH=='yard': told['distortion'].update(k1=POSE[5]); told['k1_in_focal_units']=POSE[5]*(c.f/c.hd)**2
else: told['lens']=dict(law='equisolid',forward='r = 2 f sin(t / 2)',f_px=c.f); told.pop('k1_in_focal_units',None); told['distortion']=None
json.dump(told,open(OUT+'.json','w'),indent=1)
